"""The document: the photograph, its script and history, and what keeps them safe."""
