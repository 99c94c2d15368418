"""How the server runs: two processes; threads enough that event streams never starve ordinary requests."""

workers = 2
worker_class = "gthread"
threads = 64
graceful_timeout = 3
timeout = 120
keepalive = 5
control_socket_disable = True
accesslog = None
errorlog = "-"
loglevel = "warning"
