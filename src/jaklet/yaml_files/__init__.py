"""YAML read with positions: values that know where they stand, tables of the keys of mappings, and their schemas."""
