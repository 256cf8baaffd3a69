"""What the stand-ins listen with: sockets on loopback."""

import socketserver


class Server(socketserver.ThreadingTCPServer):
    """A thread a connection."""

    allow_reuse_address = True
    daemon_threads = True
