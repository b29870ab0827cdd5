"""A workspace opened once, and every question that can be asked about it.

Interfaces stand on this: they parse what is asked, call a `Session`, and render what it answers with. A question's own
module is imported when it is asked, so that a look-up starts in a blink.
"""
