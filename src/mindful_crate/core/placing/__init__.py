"""Which bin: ``choose`` decides, ``explain`` counts, ``fit`` judges one bin."""
