"""What is used, what starting it takes, and which keys that deserves. Logs are read elsewhere."""
