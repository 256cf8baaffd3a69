"""Printers and plotters behind two protocols; an address is a URL, a plotter's language a name."""
