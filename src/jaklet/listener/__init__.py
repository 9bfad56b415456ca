"""The process that hears chords on a real desk."""
