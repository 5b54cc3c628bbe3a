"""Long work: the runner with its threads, the worker processes."""
