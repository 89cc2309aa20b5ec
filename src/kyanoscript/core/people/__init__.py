"""People in a picture: their faces, and the outlines of what is skin, lips, eyes, brows, hair and clothes."""

from kyanoscript.core.people.parts import PARTS, Part, Person, middle_of, people

__all__ = ["PARTS", "Part", "Person", "middle_of", "people"]
