"""What a floor keeps, by kind: numbers, orders, plates, bins, tasks, receipts, messages, dialogues, reservations.

Each module holds the records of its kind and the keeper of them. A keeper changes by ``put`` alone; what follows from
what it holds is an index, made from before and after; a journal takes puts back. Nothing here knows commands, events or
what work is for: that is for the modules above to say.
"""
