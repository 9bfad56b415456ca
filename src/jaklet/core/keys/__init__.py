"""Keys: chords and their sequences, layers and scopes, keyboards, and what gets in whose way."""
