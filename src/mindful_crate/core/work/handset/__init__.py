"""Dialogues on handsets."""
