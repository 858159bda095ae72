"""The web server: nginx in front, which meets the clients, and gunicorn behind it, which works.

nginx takes slow clients in and hands gunicorn whole requests only; it serves the pages and all
files itself, gunicorn saying which (`X-Accel-Redirect`). So each of gunicorn's few workers answers
one request at a time, can be stopped when one takes too long, and is never held by a connection.
"""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from pathlib import Path

from launcher.places import FRONTEND, MEDIA, PYTHON, ROOT, RUN, VENV, short_path
from launcher.services import Ports, program
from launcher.supervisor import Supervisor

WORKERS = 4
MASTERS = ("app", "app-2")
"""Two, each with half of the workers: while one that was killed comes back the other answers."""

HARD_SECONDS = 60
"""A worker that has not answered by then is ended; `REQUEST_SECONDS` of the settings come first."""

SIGN_INS_A_SECOND = 4
SIGN_INS_WAITING = 80
"""Guesses at passwords are worked on in turn, so that many at once slow nobody else; a class of
thirty that signs in together waits for some seconds."""

LARGEST_UPLOAD_MB = 300
FORM_SPARE_MB = 1

AWAY = (
    "Orchesis does not answer just now. Whatever was said to be saved is saved; try again in a "
    "moment."
)
TOO_LARGE = (
    f"The file is larger than {LARGEST_UPLOAD_MB} MB, the most that is taken: shorten it, or "
    "export it as FLAC or MP3."
)
MOST_OF_A_PERSON = 128
MOST_OF_AN_ADDRESS = 256
"""Requests that are worked on or wait: far more than any page asks for. What is dear is counted by
the application (`studio/api/concurrency.py`)."""

IN_TURN = "Very many requests come from here. Try again in a second."
TOO_MANY = "Very many people are signing in. Try again in a minute."

IS_BEHIND_TLS = os.environ.get("ORCHESIS_HTTPS") == "1"
"""A proxy on this machine speaks TLS and says where requests come from (deploy/nginx-tls.conf)."""

OUTER = """set_real_ip_from 127.0.0.1;
  real_ip_header X-Real-IP;"""

MIME_TYPES = {
    "text/html": "html",
    "text/css": "css",
    "text/javascript": "js mjs",
    "application/json": "json map",
    "application/wasm": "wasm",
    "font/woff2": "woff2",
    "image/svg+xml": "svg",
    "image/png": "png",
    "audio/ogg": "ogg",
    "audio/flac": "flac",
    "audio/wav": "wav",
    "application/pdf": "pdf",
}


def start_web(supervisor: Supervisor, ports: Ports, environment: dict[str, str]) -> None:
    """Start both."""
    apps = [short_path(f"{name}.sock") for name in MASTERS]
    for name, app in zip(MASTERS, apps, strict=True):
        command = [str(PYTHON), "-m", "gunicorn", "studio.wsgi", "--bind", f"unix:{app}"]
        command += ["--config", str(ROOT / "studio" / "gunicorn_conf.py"), "--preload"]
        command += ["--workers", str(WORKERS // len(MASTERS)), "--timeout", str(HARD_SECONDS)]
        command += ["--worker-tmp-dir", str(RUN), "--no-control-socket"]
        supervisor.start(name, command, environment)
    config = write_config(ports.web, apps)
    nginx = [program("nginx"), "-p", str(RUN), "-c", str(config), "-g", "daemon off;"]
    supervisor.start("web", nginx, dict(os.environ))


def problem(code: str, detail: str) -> str:
    """An error as the pages get them, for use between quotes in the configuration."""
    return json.dumps({"code": code, "detail": detail}).replace("'", "\\'")


def write_config(port: int, apps: Sequence[Path]) -> Path:
    """Write nginx's configuration; gives back where it is."""
    folder = RUN / "nginx"
    folder.mkdir(exist_ok=True)
    for name in ("incoming", "waiting"):
        (folder / name).mkdir(exist_ok=True)
    path = folder / "nginx.conf"
    path.write_text(config_text(port=port, apps=apps, folder=folder))
    return path


def config_text(*, port: int, apps: Sequence[Path], folder: Path) -> str:
    """The configuration.

    port : on loopback. apps : gunicorn's sockets. folder : where nginx keeps what waits.
    """
    policy = " ".join((ROOT / "studio" / "content-security-policy.txt").read_text().split())
    types = "\n".join(f"    {kind} {endings};" for kind, endings in MIME_TYPES.items())
    # Whoever started us: its files are open to nobody else.
    user = "user root;" if os.geteuid() == 0 else ""
    security = f"""
      add_header Content-Security-Policy "{policy}" always;
      add_header X-Content-Type-Options nosniff always;
      add_header X-Frame-Options DENY always;
      add_header Referrer-Policy same-origin always;"""
    # With counted failures, one that is down and one dropped connection would mean a second in
    # which nginx asks neither.
    servers = "\n    ".join(f"server unix:{app} max_fails=0;" for app in apps)
    django = next((VENV / "lib").glob("python3*/site-packages/django"), VENV)
    dist = FRONTEND / "dist"
    return f"""
{user}
worker_processes 2;
worker_rlimit_nofile 16384;
pid {folder}/nginx.pid;
error_log stderr warn;
events {{ worker_connections 4096; }}
http {{
  types {{
{types}
  }}
  default_type application/octet-stream;
  charset utf-8;
  log_format lines escape=json '{{"at": "$time_iso8601", "from": "$remote_addr", '
    '"line": "$request", "status": $status, "bytes": $body_bytes_sent, '
    '"seconds": $request_time, "request": "$request_id"}}';
  access_log /dev/stdout lines;
  server_tokens off;
  sendfile on;
  tcp_nopush on;

  # Whoever sends or reads slowly holds a connection of nginx, and nothing else.
  client_header_timeout 10s;
  client_body_timeout 20s;
  send_timeout 30s;
  keepalive_timeout 30s;
  reset_timedout_connection on;
  client_max_body_size 2m;
  client_body_buffer_size 256k;
  client_body_temp_path {folder}/incoming;
  proxy_temp_path {folder}/waiting;
  fastcgi_temp_path {folder}/waiting;
  uwsgi_temp_path {folder}/waiting;
  scgi_temp_path {folder}/waiting;
  max_ranges 4;

  gzip on;
  gzip_comp_level 2;
  gzip_min_length 1000;
  gzip_proxied any;
  gzip_vary on;
  gzip_types application/json image/svg+xml text/css text/javascript audio/midi
    application/vnd.recordare.musicxml+xml;

  proxy_http_version 1.1;
  proxy_set_header Host $http_host;
  proxy_set_header X-Real-IP $remote_addr;
  proxy_set_header X-Request-Id $request_id;
  proxy_set_header X-Forwarded-For "";
  proxy_set_header X-Forwarded-Host "";
  proxy_set_header X-Forwarded-Proto "{"https" if IS_BEHIND_TLS else ""}";
  proxy_set_header Connection "";
  proxy_connect_timeout 5s;
  proxy_read_timeout {HARD_SECONDS + 10}s;
  # Answers are taken off the workers at once, in memory as far as any of ours goes.
  proxy_buffering on;
  proxy_buffer_size 32k;
  proxy_buffers 64 32k;
  proxy_busy_buffers_size 256k;

  {OUTER if IS_BEHIND_TLS else ""}
  limit_req_zone $server_name zone=doors:1m rate={SIGN_INS_A_SECOND}r/s;
  limit_req_status 429;
  # Who is signed in counts by session, so that a class behind one address has room.
  map $cookie_sessionid $person {{ "" $remote_addr; default $cookie_sessionid; }}
  limit_conn_zone $person zone=people:4m;
  limit_conn_zone $remote_addr zone=addresses:4m;
  limit_conn_status 429;

  upstream app {{
    least_conn;
    {servers}
  }}

  server {{
    listen 127.0.0.1:{port} backlog=2048;
    server_name _;
    root {dist};
    recursive_error_pages on;
    error_page 416 @no_range;
    error_page 400 408 414 431 494 /errors/unreadable;
    error_page 413 @too_large;
    error_page 500 502 504 @away;

    location / {{
      {security}
      add_header Cache-Control no-cache always;
      try_files /index.html @not_built;
    }}
    location @not_built {{
      default_type text/plain;
      return 503 "The pages have not been built: run ./orchesis start";
    }}
    location /static/ {{
      {security}
      add_header Cache-Control no-cache always;
      alias {dist}/;
      gzip_static on;
    }}
    location = /static/sw.js {{
      # It speaks for every page, not only for what lies beside it.
      {security}
      add_header Cache-Control no-cache always;
      add_header Service-Worker-Allowed / always;
      alias {dist}/sw.js;
    }}
    location /static/assets/ {{
      # The build puts a hash of the content into these names: they may be kept for ever.
      {security}
      add_header Cache-Control "public, max-age=31536000, immutable" always;
      alias {dist}/assets/;
      gzip_static on;
    }}

    location /api/ {{
      limit_conn people {MOST_OF_A_PERSON};
      limit_conn addresses {MOST_OF_AN_ADDRESS};
      proxy_pass http://app;
      error_page 429 @in_turn;
      error_page 400 408 414 431 494 /errors/unreadable;
      error_page 413 @too_large;
      error_page 500 502 504 @away;
    }}
    location /office/ {{
      # Django's admin, for the one who runs this server.
      proxy_pass http://app;
    }}
    location /static/admin/ {{
      {security}
      alias {django}/contrib/admin/static/admin/;
    }}
    location ~ ^/api/session/(sign-in|sign-up)$ {{
      limit_req zone=doors burst={SIGN_INS_WAITING};
      proxy_pass http://app;
      error_page 429 @too_many;
      error_page 400 408 414 431 494 /errors/unreadable;
      error_page 413 @too_large;
      error_page 500 502 504 @away;
    }}
    location ~ ^/api/songs(/[^/]+/sources)?$ {{
      proxy_pass http://app;
      error_page 418 = @upload;
      if ($request_method = POST) {{ return 418; }}
      client_max_body_size {LARGEST_UPLOAD_MB + FORM_SPARE_MB}m;
      error_page 500 502 504 @away;
      error_page 413 @too_large_a_file;
    }}
    location @upload {{
      # Who may not store a file is told so before it is sent.
      auth_request /may-upload;
      auth_request_set $refusal $upstream_http_x_refusal;
      auth_request_set $refusal_code $upstream_http_x_refusal_code;
      client_max_body_size {LARGEST_UPLOAD_MB + FORM_SPARE_MB}m;
      proxy_pass http://app;
      error_page 401 403 @refused;
      error_page 500 502 504 @away;
      error_page 413 @too_large_a_file;
    }}
    location = /may-upload {{
      internal;
      client_max_body_size 0;
      proxy_pass http://app/api/uploads/allowed;
      proxy_method GET;
      proxy_pass_request_body off;
      proxy_set_header Content-Length "";
      proxy_set_header Host $http_host;
      proxy_set_header X-Real-IP $remote_addr;
      proxy_set_header X-Request-Id $request_id;
      proxy_set_header X-Forwarded-Proto "{"https" if IS_BEHIND_TLS else ""}";
      proxy_set_header X-Forwarded-For "";
      proxy_set_header X-Upload-Method $request_method;
      proxy_set_header X-Upload-Length $content_length;
    }}
    location /files/ {{
      # Named by the application alone (X-Accel-Redirect), which has seen who asks.
      internal;
      {security}
      alias {MEDIA}/;
      gzip_static on;
    }}

    location @away {{
      default_type application/json;
      add_header Retry-After 2 always;
      return 503 '{problem("away", AWAY)}';
    }}
    location = /errors/unreadable {{
      # An address that cannot be read is none from which a named place could be reached.
      internal;
      default_type application/json;
      return 400 '{problem("invalid", "This request cannot be read.")}';
    }}
    location @no_range {{
      default_type application/json;
      return 416 '{problem("no_range", "The file has no such part.")}';
    }}
    location @too_large {{
      default_type application/json;
      return 413 '{problem("too_large", "At most 2 MB are taken at once.")}';
    }}
    location @too_large_a_file {{
      default_type application/json;
      return 413 '{problem("too_large", TOO_LARGE)}';
    }}
    location @too_many {{
      default_type application/json;
      add_header Retry-After 20 always;
      return 429 '{problem("too_many", TOO_MANY)}';
    }}
    location @in_turn {{
      default_type application/json;
      add_header Retry-After 1 always;
      return 429 '{problem("too_many", IN_TURN)}';
    }}
    location @refused {{
      default_type application/json;
      return 403 '{problem("$refusal_code", "$refusal")}';
    }}
  }}
}}
"""
