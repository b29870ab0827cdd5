"""The rules of the audit, one file each; each has a value `RULE`."""
