"""When dust came, told from ordinary pictures."""
