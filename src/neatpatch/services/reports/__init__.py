"""Reports on paper: gathered from the store, set as HTML and as PDF."""
