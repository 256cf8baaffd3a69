"""Station 4: the print file."""
