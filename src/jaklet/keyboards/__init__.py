"""What is on the keys of national keyboards: tables made from the X keyboard data, and their reader."""
