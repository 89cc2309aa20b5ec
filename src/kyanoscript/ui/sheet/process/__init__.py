"""The Process page of the Sheet view: wedge, expose, read, curve, prove."""
