"""Where texts come from: lines of files, columns of tables, standard input."""
