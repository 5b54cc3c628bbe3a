"""Sharing with devices on the network: the second door, its guard and its pages."""
