"""What only the sensor knows: its fingerprint, where frames lie on each other by it, the lens."""
