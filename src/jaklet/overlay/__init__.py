"""What appears over the windows at the moment of need: cards, drawn as pixels, and the helper that shows them."""
