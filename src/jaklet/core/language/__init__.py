"""What is written: sentences of configs and layouts, and what they mean."""
