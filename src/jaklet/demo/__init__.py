"""The harbour office of Port Ellery: demo files, story and windows."""
