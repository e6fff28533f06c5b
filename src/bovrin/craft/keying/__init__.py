"""Keys and the poses that they make: set, moved, retimed, and which key belongs to which pose."""
