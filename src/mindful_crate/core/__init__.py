"""The rules of the job. Standard library only; no input or output, no clock, no chance.

Seven kinds of thing, and the way data flows through them:

* ``catalog`` says what is: sites, bins, items, orders; an *opening state* freezes it.
* ``rulebook`` says what is wanted: step plans, bin rules, flows; every part has a stable id and a sentence.
* ``floor`` is what a world keeps, by kind, over its opening.
* ``work`` is what is done, a room a matter; ``work.table`` names them all.
* ``world`` is the log: ``decide(state, rulebook, command)`` answers events and a why trail, or a
  refusal; ``world.fold`` alone changes a state, and only from events.
* ``placing`` and ``scanning`` are asked by ``work``: which bin, and what a scan means here.
* ``proving`` runs all of that against a script and says what differs.

A command comes in from the shell already stamped with time; events go out as data; the shell stores them.
"""
