"""Seek: several values of a print found by choosing among prints, look by look.

`appearance` learns from a few small prints what the values do to the look of it, `belief` draws from the choices what
the person may have in mind, `plane` lays the next prints through the best so far, and `seek` is all of it together.
"""
