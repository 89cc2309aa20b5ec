"""The Recipes view: every recipe on this picture, one of them large, and what can be done with it."""
