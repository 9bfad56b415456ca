"""What this machine has: programs, desktop entries, hosts."""
