"""One map: predicted at another aperture, seen facing the mount, read from elsewhere."""
