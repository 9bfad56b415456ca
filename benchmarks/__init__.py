"""Benchmarks: each beside the bare floor that it is compared with. Run: make bench"""
