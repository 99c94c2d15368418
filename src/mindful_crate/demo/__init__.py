"""Halloway Quay, a made-up ship chandler: the demo site as open-format files, and its loader."""
