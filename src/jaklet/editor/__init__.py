"""What an editor is told while files are written: findings, names, what can come next."""
