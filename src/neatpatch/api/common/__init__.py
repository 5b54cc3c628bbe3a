"""What all operations share: dependencies, errors as answers, event streams."""
