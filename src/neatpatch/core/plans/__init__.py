"""How to do one step: swab, dab, drying, loupe, power, test frame."""
