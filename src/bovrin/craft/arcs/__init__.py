"""The arcs that points go on: kept, pulled and made cleaner."""
