"""Files that are nearly right, by the thousand: python -m benchmarks.fuzz [kind ...] [--count N | --seconds S]"""
