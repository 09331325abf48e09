# Shared by ./start, ./test, ./shots and ./bench. Sourced, not run.
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
run=$root/.run
export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1 DOTNET_SKIP_FIRST_TIME_EXPERIENCE=1

say() { printf '%s\n' "$*"; }
die() { printf '%s: %s\n' "$(basename "$0")" "$*" >&2; exit 1; }

need_dotnet() { command -v dotnet >/dev/null || die "the .NET SDK 10 is missing. Install it, so that 'dotnet --version' prints 10.0 or later."; }

# The database needs a folder that its own user can reach and whose socket path is short; where the checkout isn't, it gets one under /var/tmp.
data_folder() { # data_folder NAME -> a folder for NAME, the same one each time
  local dir=$run/$1
  mkdir -p "$dir"
  if [ ${#dir} -lt 80 ] && { [ "$(id -u)" != 0 ] || ! id postgres >/dev/null 2>&1 || (cd / && setpriv --reuid=postgres --regid=postgres --clear-groups test -x "$dir" 2>/dev/null); }; then echo "$dir"
  else
    dir=/var/tmp/bright-circle-$(id -u)/$(printf '%s' "$root/$1" | cksum | cut -d' ' -f1)
    mkdir -p "$dir"; chmod 755 "$(dirname "$dir")" "$dir"; echo "$dir"
  fi
}

taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

# Builds what changed. $1: project or solution, $2: configuration.
build() {
  local log=$run/build.log
  mkdir -p "$run"
  # A compiler server that has lived through many edits sometimes misreads Razor pages; a fresh one doesn't, so a failed build is tried once more with it.
  (cd "$root" && dotnet build "$1" -c "$2" -v q --nologo -p:UseSharedCompilation=true -clp:ErrorsOnly) > "$log" 2>&1 && return
  (cd "$root" && dotnet build-server shutdown >/dev/null 2>&1; dotnet build "$1" -c "$2" -v q --nologo -p:UseSharedCompilation=false -clp:ErrorsOnly) > "$log" 2>&1 || { cat "$log" >&2; die "the build failed (above)."; }
}

have_postgres() { compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null; }
have_chromium() { [ -x /usr/bin/chromium ] && [ -x /usr/bin/chromedriver ]; }
install_missing() { # install_missing chromium
  if [ "$(id -u)" = 0 ]; then "$root/tools/install" "$1"
  elif sudo -n true 2>/dev/null; then sudo -n "$root/tools/install" "$1"
  else die "$1 is missing, and installing it needs root or sudo. As root: tools/install $1"; fi
}
