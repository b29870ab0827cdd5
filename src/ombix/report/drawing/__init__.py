"""Pages that are drawn: shapes and texts with their places, written as SVG, PNG and PDF."""
