# Sourced by start and test: installs what is missing from Debian's packages, and says so in words
# where it cannot.

# install PACKAGE...
install() {
  local as=""
  if [ "$(id -u)" -ne 0 ]; then
    if command -v sudo >/dev/null 2>&1; then as="sudo"; else
      echo "Debian's packages $* are missing. Install them as root: apt-get install $*"; exit 1
    fi
  fi
  command -v apt-get >/dev/null 2>&1 || { echo "The packages $* are missing, and this is no Debian. Install them and run this again."; exit 1; }
  echo "Installing $* from Debian's packages …"
  local log; log=$(mktemp)
  { $as apt-get update -qq && $as env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@"; } >"$log" 2>&1 || {
    tail -5 "$log"; echo "The packages $* could not be installed. Mend what the lines above say and run this again."; exit 1; }
  rm -f "$log"
}

need_go() {
  command -v go >/dev/null 2>&1 || { echo "Go is missing. Install Go 1.26 or later and put it on the PATH."; exit 1; }
}

need_postgres() {
  ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 && return
  # Debian's package would make and start a cluster of its own; Nine Coins keeps its own.
  install postgresql-common
  local as=""; [ "$(id -u)" -eq 0 ] || as="sudo"
  local conf=/etc/postgresql-common/createcluster.conf
  [ ! -f "$conf" ] || $as sed -i 's/^#\? *create_main_cluster *=.*/create_main_cluster = false/' "$conf"
  install postgresql
}

need_chromium() {
  command -v chromium >/dev/null 2>&1 || install chromium
}

# The tests read what is printed.
need_pdftotext() {
  command -v pdftotext >/dev/null 2>&1 || install poppler-utils
}
