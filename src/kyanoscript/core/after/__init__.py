"""After a print: what an earlier print looks like, as a short run of ordinary passes for another photograph.

`picture` reads the print that is followed (its own part without frame, its ladder of tints), `scene` finds out whether
both show the same, and fits weights and tones if they do, `surface` compares details, softness, grain and fall-off, and
`following` puts it together.
"""
