"""Trying: keys pressed on the stage, macros and snippets tried on a text. No real editor is started here."""
