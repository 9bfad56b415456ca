"""Better keys: which keys are worth having, by what they cost the hand and how often they are pressed."""
