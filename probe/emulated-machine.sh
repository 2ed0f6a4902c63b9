#!/bin/sh
# Starts a small live system in the emulator as a machine of one's choice, runs the probe in it, and brings the bundle
# home. For tests and for trying the probe without a machine at hand.
#
#   sh probe/emulated-machine.sh --firmware bios|uefi --out BUNDLE.tar.gz [EMULATOR ARGUMENT...]
#
# The arguments after the two options go to qemu-system-x86_64: -smbios, -cpu, -m, -drive and so on.
# Needs the Debian packages qemu-system-x86, ovmf, seabios, busybox-static, cpio; the kernel image is fetched once with
# apt-get download and kept in FRESHBOOT_CACHE (default: .cache beside this folder). Nothing is installed.
set -eu
here=$(cd "$(dirname "$0")" && pwd)
cache=${FRESHBOOT_CACHE:-$here/../.cache}/live
firmware='' out=''
while [ $# -gt 0 ]; do
  case $1 in
    --firmware) firmware=$2; shift 2 ;;
    --out) out=$2; shift 2 ;;
    *) break ;;
  esac
done
case $firmware in bios | uefi) ;; *) echo "emulated-machine: --firmware must be bios or uefi" >&2; exit 2 ;; esac
[ -n "$out" ] || { echo "emulated-machine: --out is missing" >&2; exit 2; }

mkdir -p "$cache"
work=$(mktemp -d)
pid=''
trap '[ -z "$pid" ] || kill "$pid" 2> /dev/null || true; rm -rf "$work"' EXIT

# The kernel, once: the package that the metapackage depends on.
if [ ! -e "$cache/vmlinuz" ]; then
  package=$(apt-cache depends linux-image-cloud-amd64 | sed -n 's/.*Depends: \(linux-image-[0-9][^ ]*\).*/\1/p' | head -n 1)
  [ -n "$package" ] || { echo "emulated-machine: no kernel package known; run apt-get update" >&2; exit 1; }
  (cd "$work" && apt-get -q download "$package" > apt.log 2>&1) || { cat "$work/apt.log" >&2; exit 1; }
  dpkg-deb -x "$work"/linux-image-*.deb "$work/kernel"
  mkdir -p "$cache/modules"
  find "$work/kernel/lib/modules" -name efivarfs.ko -exec cp {} "$cache/modules/" \;
  cp "$work"/kernel/boot/vmlinuz-* "$cache/vmlinuz.part"
  mv "$cache/vmlinuz.part" "$cache/vmlinuz"
fi

# The live system: busybox, the probe, and an init that sends the bundle out by the second serial port.
root=$work/root
mkdir -p "$root/bin" "$root/proc" "$root/sys" "$root/dev" "$root/tmp" "$root/lib"
cp "$(command -v busybox)" "$root/bin/busybox"
cp "$here/fresh-boot-probe.sh" "$root/probe.sh"
cp "$cache"/modules/*.ko "$root/lib/" 2> /dev/null || true
cat > "$root/init" <<'INIT'
#!/bin/busybox sh
/bin/busybox --install -s /bin
export PATH=/bin
mount -t proc proc /proc
mount -t sysfs sysfs /sys
mount -t devtmpfs devtmpfs /dev
for module in /lib/*.ko; do [ ! -e "$module" ] || insmod "$module"; done
[ ! -d /sys/firmware/efi ] || mount -t efivarfs efivarfs /sys/firmware/efi/efivars
cd /tmp
sh /probe.sh /tmp/bundle.tar.gz
stty raw -F /dev/ttyS1
{ echo; echo BEGIN; base64 /tmp/bundle.tar.gz; } > /dev/ttyS1
echo END > /dev/ttyS1
sync
sleep 1
poweroff -f
INIT
chmod +x "$root/init"
(cd "$root" && find . | cpio -o -H newc --quiet | gzip -1) > "$work/initrd.gz"

if [ "$firmware" = uefi ]; then
  code=/usr/share/OVMF/OVMF_CODE.fd vars=/usr/share/OVMF/OVMF_VARS.fd
  [ -e "$code" ] || { code=/usr/share/OVMF/OVMF_CODE_4M.fd vars=/usr/share/OVMF/OVMF_VARS_4M.fd; }
  cp "$vars" "$work/vars.fd"
  set -- -drive "if=pflash,format=raw,readonly=on,file=$code" -drive "if=pflash,format=raw,file=$work/vars.fd" "$@"
fi

qemu-system-x86_64 -machine q35 -display none -no-reboot -nic none -monitor none \
  -serial "file:$work/console.log" -serial "file:$work/bundle.b64" \
  -kernel "$cache/vmlinuz" -initrd "$work/initrd.gz" -append "console=ttyS0 ${FRESHBOOT_EMULATOR_APPEND:-quiet} panic=1" "$@" < /dev/null > "$work/qemu.log" 2>&1 &
pid=$!
waited=0
while kill -0 "$pid" 2> /dev/null; do
  if [ "$waited" -ge "${FRESHBOOT_EMULATOR_SECONDS:-300}" ]; then
    echo "emulated-machine: no end after $waited s; the last of its console:" >&2
    tail -n 5 "$work/console.log" >&2
    exit 1
  fi
  sleep 1
  waited=$((waited + 1))
done
pid=''
if ! grep -aq '^END' "$work/bundle.b64" 2> /dev/null; then
  echo "emulated-machine: no bundle came; the emulator and the console said:" >&2
  cat "$work/qemu.log" >&2
  tail -n 20 "$work/console.log" >&2
  exit 1
fi
# The firmware writes to that port too: only what stands between the two words counts.
tr -d '\r' < "$work/bundle.b64" | sed '1,/^BEGIN$/d; /^END$/,$d' | base64 -d > "$out"
echo "$out"
