"""What any compositor of Wayland offers by its protocols: the keyboard, its names, surfaces over the windows."""
