"""The work, one room for each kind: a question has its typed answer, how it is worked out, how it is laid out, and its command."""
