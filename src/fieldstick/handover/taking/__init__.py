"""Patterns taken out of schemas and forms: as each standard means them, with what it says of them beside."""
