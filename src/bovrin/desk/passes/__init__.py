"""What is on the desk in each pass; what belongs to one pass alone has a folder here."""
