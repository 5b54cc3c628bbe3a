"""Taking the shadows of dust out of pictures already taken."""
