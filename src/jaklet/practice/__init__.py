"""Practice: which keys are still to be learned, and when each is asked again."""
