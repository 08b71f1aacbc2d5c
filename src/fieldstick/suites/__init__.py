"""Suite files: their model, reading, and finding."""
