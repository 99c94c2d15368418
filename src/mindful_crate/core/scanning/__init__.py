"""What a scan means here, and the interpreter of the handset's dialogues."""
