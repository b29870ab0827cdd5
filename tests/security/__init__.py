"""Attacks by files, names and places, each as whoever means harm would try it."""
