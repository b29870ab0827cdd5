"""Bindings in layers, and what they decide: one function for every use. Changes and merges as values; no file is read here."""
