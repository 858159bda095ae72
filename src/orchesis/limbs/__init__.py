"""Hands and feet: which limb plays what."""
