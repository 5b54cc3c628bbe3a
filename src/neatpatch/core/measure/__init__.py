"""A frame's way from light to a measured map."""
