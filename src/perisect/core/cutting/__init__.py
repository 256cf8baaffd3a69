"""Station 5: find the marks, solve the registration, order the lines, lead the knife."""
