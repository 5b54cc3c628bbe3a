"""What the hands are told: the plan drawn for them, the instructions."""
