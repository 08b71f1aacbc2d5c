"""One thin module a command: options, one library call, one rendering."""
