"""The slip: the controls of the selected pass, made from its declaration."""
