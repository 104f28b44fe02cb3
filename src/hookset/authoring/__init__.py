"""Packs made from something else: drafted from notes, derived from a template, lifted out of another map."""
