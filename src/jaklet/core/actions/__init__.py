"""What is done: tasks on a desk, each a pure state machine."""
