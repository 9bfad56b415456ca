"""Text for people: desks, layouts, findings."""
