"""What commands share: streams, options, questions, files that answers are written to. Typer and Rich begin here."""
