"""What is used: how often keys fire, how programs are reached otherwise, and what can be told from that."""
