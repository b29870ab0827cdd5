"""What commands and actions do, as programs on a text with its cursor; when two of them are equal; which together do a third."""
