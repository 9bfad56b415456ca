"""The rules that examine a whole configuration before it is used."""
