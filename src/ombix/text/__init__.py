"""What commands do to a text: programs of effects, and a stage that keys are pressed on. No editor is started here."""
