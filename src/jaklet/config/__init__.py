"""From the user's files to core values, with positions; layouts on disk."""
