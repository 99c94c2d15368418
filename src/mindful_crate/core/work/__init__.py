"""What is done, a room a matter: acts, how they are decided, events, how they fold, and their words.

``making`` and ``rows`` serve all of them and know none by name; ``table`` names every one.
"""
