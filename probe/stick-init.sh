#!/bin/busybox sh
# shellcheck shell=dash
# The first process of the probe stick: finds drivers, runs the probe, shows the main facts in large letters, keeps the
# bundle on the stick, and posts it while the bench network is heard. The machine's own drives are never mounted.
/bin/busybox mkdir -p /bin /sbin
/bin/busybox --install -s /bin 2> /dev/null
export PATH=/bin:/sbin:/usr/bin:/usr/sbin HOME=/ TERM=linux
mount -t proc proc /proc
mount -t sysfs sysfs /sys
mount -t devtmpfs devtmpfs /dev 2> /dev/null
screen=/dev/tty0
[ -e $screen ] || screen=/dev/console
exec < /dev/null > $screen 2>&1
line() {
  echo "$*"
  [ ! -e /dev/ttyS0 ] || echo "fresh-boot: $*" > /dev/ttyS0
}

# Drivers by what the buses report; twice, since a driver for a bus shows what hangs on it.
for round in 1 2 3; do
  find /sys/devices -name modalias -exec cat {} + 2> /dev/null | sort -u | while read -r alias; do modprobe -q -b "$alias" 2> /dev/null; done
  [ "$round" = 3 ] || sleep 1
done
for module in sd_mod sr_mod usb_storage vfat nls_cp437 nls_ascii nls_iso8859-1 battery ac; do modprobe -q $module 2> /dev/null; done
if [ -d /sys/firmware/efi ]; then
  modprobe -q efivarfs
  mount -t efivarfs efivarfs /sys/firmware/efi/efivars 2> /dev/null
fi

# The stick itself, by the name of its file system.
stick=''
waited=0
while [ -z "$stick" ] && [ $waited -lt 20 ]; do
  for part in /dev/sd*[0-9] /dev/mmcblk*p[0-9]* /dev/vd*[0-9]; do
    # The label of a FAT32 file system stands at byte 71 of its first sector.
    [ -b "$part" ] && [ "$(dd if="$part" bs=1 skip=71 count=11 2> /dev/null)" = 'FRESHBOOT  ' ] && stick=$part && break
  done
  [ -n "$stick" ] || sleep 1
  waited=$((waited + 1))
done
server='' key='' off='' code='' ask=''
if [ -n "$stick" ] && mount -t vfat -o sync "$stick" /stick; then
  mkdir -p /stick/bundles
  if [ -e /stick/fresh-boot.conf ]; then
    server=$(sed -n 's/^server=\([^[:cntrl:]]*\).*/\1/p' /stick/fresh-boot.conf)
    key=$(sed -n 's/^key=\([0-9a-f]*\).*/\1/p' /stick/fresh-boot.conf)
    off=$(sed -n 's/^off=\([a-z]*\).*/\1/p' /stick/fresh-boot.conf)
    ask=$(sed -n 's/^ask=\([a-z]*\).*/\1/p' /stick/fresh-boot.conf)
    code=$(sed -n 's/^code=\([A-Za-z0-9]*\).*/\1/p' /stick/fresh-boot.conf)
  fi
fi

line "Reading this machine. Nothing on it is changed."
cd /tmp || exit
# A second probe carries the code of its step; whoever reads a machine for the first time just waits, or presses Enter.
if [ -z "$code" ] && [ "$off" != yes ] && [ "$ask" != no ]; then
  printf 'Code of the run step, then Enter (none: Enter, or wait 15 seconds): '
  # shellcheck disable=SC3045 # the stick's shell is busybox ash, which has a limit for reading
  read -r -t 15 code || code=''
  code=$(printf %s "$code" | tr -cd 'A-Za-z0-9')
fi
sh /probe.sh --code "$code" /tmp/bundle.tar.gz > /tmp/probe.log 2>&1

# Letters of five by seven cells, each row a number of five bits.
big() {
  echo "$1" | tr '[:lower:]' '[:upper:]' | cut -c 1-13 | awk '
    BEGIN {
      n = split("A:14 17 17 31 17 17 17|B:30 17 17 30 17 17 30|C:14 17 16 16 16 17 14|D:30 17 17 17 17 17 30|E:31 16 16 30 16 16 31|F:31 16 16 30 16 16 16|G:14 17 16 23 17 17 15|H:17 17 17 31 17 17 17|I:14 4 4 4 4 4 14|J:7 2 2 2 2 18 12|K:17 18 20 24 20 18 17|L:16 16 16 16 16 16 31|M:17 27 21 21 17 17 17|N:17 25 21 19 17 17 17|O:14 17 17 17 17 17 14|P:30 17 17 30 16 16 16|Q:14 17 17 17 21 18 13|R:30 17 17 30 20 18 17|S:15 16 16 14 1 1 30|T:31 4 4 4 4 4 4|U:17 17 17 17 17 17 14|V:17 17 17 17 17 10 4|W:17 17 17 21 21 27 17|X:17 17 10 4 10 17 17|Y:17 17 10 4 4 4 4|Z:31 1 2 4 8 16 31|0:14 17 19 21 25 17 14|1:4 12 4 4 4 4 14|2:14 17 1 6 8 16 31|3:31 2 4 2 1 17 14|4:2 6 10 18 31 2 2|5:31 16 30 1 1 17 14|6:6 8 16 30 17 17 14|7:31 1 2 4 8 8 8|8:14 17 17 14 17 17 14|9:14 17 17 15 1 2 12|-:0 0 0 31 0 0 0|.:0 0 0 0 0 12 12|?:14 17 1 2 4 0 4", glyphs, "|")
      for (i = 1; i <= n; i++) { at = index(glyphs[i], ":"); rows[substr(glyphs[i], 1, at - 1)] = substr(glyphs[i], at + 1) }
    }
    {
      for (row = 1; row <= 7; row++) {
        text = ""
        for (i = 1; i <= length($0); i++) {
          split(rows[substr($0, i, 1)], bits, " ")
          for (bit = 16; bit >= 1; bit /= 2) text = text (int(bits[row] / bit) % 2 ? "\033[7m \033[0m" : " ")
          text = text " "
        }
        print text
      }
    }'
}
word() { head -n 1 "$1" 2> /dev/null | tr -d '\r\n'; }
model=$(word /sys/class/dmi/id/product_name)
serial=$(word /sys/class/dmi/id/product_serial)
memory=$(awk '/^MemTotal:/ { printf "%d", ($2 + 524288) / 1048576 }' /proc/meminfo)
flags=" $(sed -n 's/^flags[^:]*: //p' /proc/cpuinfo | head -n 1) "
has() { for flag in "$@"; do case $flags in *" $flag "*) ;; *) return 1 ;; esac; done; }
level=V0
if has lm cmov cx8 fpu fxsr mmx syscall sse sse2; then
  level=V1
  if has cx16 lahf_lm popcnt pni sse4_1 sse4_2 ssse3; then
    level=V2
    if has avx avx2 bmi1 bmi2 f16c fma abm movbe; then
      level=V3
      if has avx512f avx512bw avx512cd avx512dq avx512vl; then level=V4; fi
    fi
  fi
fi
drive=NONE
for device in /sys/block/nvme* /sys/block/sd* /sys/block/mmcblk* /sys/block/vd* /sys/block/hd*; do
  if [ ! -e "$device/size" ] || [ "$(word "$device/removable")" = 1 ]; then continue; fi
  case $(readlink -f "$device") in */usb*) continue ;; esac
  drive=$(($(word "$device/size") * 512 / 1000000000))G
  break
done
started=BIOS
[ ! -d /sys/firmware/efi ] || started=UEFI
printf '\033[2J\033[H'
big "${model:-NO NAME}"
echo
big "${memory}G $level $drive"
line "$model · serial ${serial:-not to be read} · $(sed -n 's/^model name[^:]*: //p' /proc/cpuinfo | head -n 1) · started by $started"

# Kept under serial and time; a serial that is no file name is made one.
if [ -e /tmp/bundle.tar.gz ] && [ -d /stick/bundles ]; then
  name=$(echo "${serial:-no-serial}" | tr -c 'A-Za-z0-9\n' '-' | cut -c 1-40)-$(date -u +%Y%m%d-%H%M%S).tar.gz
  if cp /tmp/bundle.tar.gz "/stick/bundles/.part" && sync && mv "/stick/bundles/.part" "/stick/bundles/$name" && sync; then
    line "Kept on the stick: bundles/$name"
  else
    line "The stick is full or read-only: nothing is kept on it."
  fi
elif [ ! -e /tmp/bundle.tar.gz ]; then
  line "The probe failed: $(tail -n 1 /tmp/probe.log)"
else
  line "The stick's own partition was not found: nothing is kept on it."
fi

if [ -n "$server" ] && [ -n "$key" ] && [ -e /tmp/bundle.tar.gz ]; then
  line "Looking for the bench network..."
  for network in /sys/class/net/*; do
    name=${network##*/}
    [ "$name" != lo ] || continue
    ip link set "$name" up 2> /dev/null
    udhcpc -i "$name" -n -q -t 5 -T 2 -s /bin/dhcp-script > /dev/null 2>&1 && break
  done
  code=$(wget -q -O - --post-data="$key" "$server/api/probe-sticks/code" 2> /dev/null)
  # As text: this wget ends a file at its first zero byte.
  base64 /tmp/bundle.tar.gz > /tmp/bundle.b64
  if [ -n "$code" ] && wget -q -O - --header 'Content-Type: text/plain' --post-file=/tmp/bundle.b64 "$server/api/probe/$code" 2> /dev/null | grep -q '"warnings"'; then
    line "Posted: it waits under Arrivals."
  else
    line "Not posted: the bench network is not heard, or this stick is not known there. The bundle is kept."
  fi
fi

umount /stick 2> /dev/null
sync
if [ "$off" = yes ]; then poweroff -f; fi
line "Done. Take the stick out, or press the power key."
while :; do sleep 3600; done
