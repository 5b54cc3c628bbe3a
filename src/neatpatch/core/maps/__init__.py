"""What is done with maps: laying them on each other, looking at them at another aperture."""
