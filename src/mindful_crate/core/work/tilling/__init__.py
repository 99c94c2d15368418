"""The till of a store: a stand-in that keeps a copy of its stock, renewed now and then."""
