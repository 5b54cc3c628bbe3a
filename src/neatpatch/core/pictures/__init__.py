"""What ordinary pictures tell of the dust before the sensor, and what they hide of it."""
