"""Looking: what keys do, how something is done, what is bound, what is free. Nothing is changed here."""
