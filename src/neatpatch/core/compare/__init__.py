"""Two maps of one sensor: aligned by their spots, paired, and what became of each spot."""
