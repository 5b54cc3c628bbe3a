"""Plans for the hand: swab, lift, drying, loupe, test frame. Pure arithmetic over plain records."""
