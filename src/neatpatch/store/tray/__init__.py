"""Rows of plans, of trays on the bench, of their photographs."""
