"""A simulated printer and plotter: processes of their own, spoken to over loopback sockets."""
