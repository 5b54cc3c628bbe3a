import neatpatch as neatpatch  # before numpy, whose threads it settles
