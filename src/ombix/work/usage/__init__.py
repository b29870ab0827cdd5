"""What is used: counted while an editor runs, or read from logs; what keys save, and which would be better."""
