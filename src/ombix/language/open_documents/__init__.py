"""Files that are being written: what is wrong with them while one types, what stands at a place, and what could."""
