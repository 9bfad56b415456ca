"""The desks that Jaklet works on, behind the one port in `core.actions.ports`."""
