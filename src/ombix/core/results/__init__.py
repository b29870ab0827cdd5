"""What questions are answered with: typed values that every interface is thin over.

They are named tuples of texts, numbers and each other: they cost nothing to import, are kept in a cache as they are, and are
rendered by `ombix.report`. Keys are in the portable notation, `shown` is how the platform's users write them; a condition is
a text that `core.conditions` reads; a `Place` has an absolute path.
"""
