"""Use cases over store and core; no HTTP."""
