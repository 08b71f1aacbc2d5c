"""A pattern, or the patterns of a record's columns, as the schema or form that holds data against them."""
