"""Chords pressed on a tabletop, with nothing real touched: rehearsals, trials and proofs."""
