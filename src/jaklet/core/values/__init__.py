"""What there is: plain values, and arithmetic on them."""
