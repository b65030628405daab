#!/bin/sh
# Makes sure that the browser tests find Chromium: on PATH, else from Debian's packages when we may install.
set -eu
if command -v chromium >/dev/null 2>&1; then exit 0; fi
if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" = 0 ]; then
  echo 'Installing Chromium for the browser tests'
  apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium >/dev/null
  exit 0
fi
echo 'The browser tests need Chromium. Install it and run again: sudo apt-get install chromium' >&2
exit 1
