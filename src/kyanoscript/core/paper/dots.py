"""What dots can be, in words; without the numbers of `screens`, so that whoever only names them loads nothing else."""

KINDS = {
    "round": "round dots", "elliptical": "elliptical dots", "line": "lines", "blue": "blue noise",
    "grain": "aquatint grain",
}  # fmt: skip
# ISO 12647-2:2013: tone value increase of 50 %, per cent
TVI = {"A": 16.0, "B": 19.0, "C": 22.0, "D": 25.0, "E": 28.0}
