"""What people call things: words of the trade, and which passes, starts and recipes they may mean.

A file for each language; an entry names a pass (``levels``), a start of one (``levels: matte, raised blacks``) or a
recipe (``recipe lith-warm``), the likeliest first.
"""
