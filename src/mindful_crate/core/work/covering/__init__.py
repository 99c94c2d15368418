"""Cover: how orders that go out are promised, as stock and supply come and go, and by hand."""
