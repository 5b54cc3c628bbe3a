"""When dust came and went."""
