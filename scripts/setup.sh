#!/usr/bin/env bash
# Shared by demo.sh and test.sh: installs what a new machine lacks or, without the right to, names it.

# Programs that running the demo needs; the tests need those of the second list too.
DEMO_PACKAGES="curl xorriso grub-common grub-pc-bin grub-efi-amd64-bin grub-efi-ia32-bin mtools dosfstools qemu-system-x86 ovmf ovmf-ia32 seabios fdisk e2fsprogs busybox-static cpio kmod binutils swtpm"
TEST_PACKAGES="cryptsetup-bin qpdf poppler-utils memtest86+ ipxe grub-rescue-pc genisoimage isolinux gdisk smartmontools pciutils lshw chromium dmidecode util-linux shellcheck"
export DEMO_PACKAGES TEST_PACKAGES
export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1 DOTNET_SKIP_FIRST_TIME_EXPERIENCE=1
# A home that is empty or not to be written is no reason to fail.
export DOTNET_CLI_HOME=${DOTNET_CLI_HOME:-${HOME:-/tmp}}

# need_packages NAME...: Debian packages, installed in one go where any is missing.
need_packages() {
  local missing=() name
  for name in "$@"; do
    [ "$(dpkg-query -W -f '${db:Status-Status}' "$name" 2> /dev/null)" = installed ] || missing+=("$name")
  done
  [ ${#missing[@]} -gt 0 ] || return 0
  local sudo=''
  if [ "$(id -u)" != 0 ]; then
    if command -v sudo > /dev/null && sudo -n true 2> /dev/null; then
      sudo=sudo
    else
      echo "These Debian packages are missing, and installing them needs root: ${missing[*]}" >&2
      echo "Run: apt-get update && apt-get install ${missing[*]}" >&2
      return 1
    fi
  fi
  echo "installing ${missing[*]}"
  $sudo apt-get -q update > /tmp/fresh-boot-apt.log 2>&1
  if ! DEBIAN_FRONTEND=noninteractive $sudo apt-get -q install -y --no-install-recommends "${missing[@]}" >> /tmp/fresh-boot-apt.log 2>&1; then
    tail -n 20 /tmp/fresh-boot-apt.log >&2
    return 1
  fi
}

need_sdk() {
  if ! command -v dotnet > /dev/null || ! dotnet --list-sdks | grep -q '^10\.'; then
    echo "The .NET SDK 10 is missing (dotnet on the PATH)." >&2
    return 1
  fi
  if ! command -v node > /dev/null || [ "$(node -p 'process.versions.node.split(".")[0]')" -lt 20 ]; then
    echo "Node.js 20 or later is missing." >&2
    return 1
  fi
}

# install_node_modules FOLDER: as the lock file says, once per lock file.
install_node_modules() {
  local mark="$1/node_modules/.installed-from" sum
  sum=$(sha256sum "$1/package-lock.json" | cut -d ' ' -f 1)
  [ "$(cat "$mark" 2> /dev/null)" = "$sum" ] && return 0
  echo "installing the packages of $1"
  (cd "$1" && PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm ci --no-audit --no-fund > /tmp/fresh-boot-npm.log 2>&1) || {
    tail -n 30 /tmp/fresh-boot-npm.log >&2
    return 1
  }
  echo "$sum" > "$mark"
}
