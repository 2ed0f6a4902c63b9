# shellcheck shell=dash
# An upgrade in place, begun in the running system: the checks of the new system's medium, as its loader makes them, and what the second
# part needs, copied beside the system that runs. The second part runs from there at the next start: over.sh.

find_medium

# smbios TYPE OFFSET string|byte|dword: a field of the first structure of a type in the firmware's table (DMTF DSP0134).
smbios() {
  hexdump -v -e '1/1 "%u\n"' /sys/firmware/dmi/tables/DMI | awk -v type="$1" -v at="$2" -v as="$3" '
    { b[NR - 1] = $1 }
    END {
      for (i = 0; i + 4 <= NR; i = end) {
        text = i + b[i + 1]
        for (end = text; end + 1 < NR && (b[end] != 0 || b[end + 1] != 0); end++);
        end += 2
        if (b[i] != type) continue
        if (as == "byte") { print b[i + at]; exit }
        if (as == "dword") {
          printf "%.0f\n", b[i + at] + 256 * (b[i + at + 1] + 256 * (b[i + at + 2] + 256 * b[i + at + 3]))
          exit
        }
        want = b[i + at]
        for (n = 1; text < end && n <= want; text++)
          if (b[text] == 0) n++
          else if (n == want) printf "%c", b[text]
        exit
      }
    }'
}

refused=no
listed=no
refuse() {
  refused=yes
  say "  no: $1"
}
# What the medium's lists are written in; they are read, not run.
each() {
  [ ! -e "/medium/setup/$1" ] || while read -r first rest; do
    rest=${rest#\"}
    "$2" "$first" "${rest%\"}"
  done < "/medium/setup/$1"
}
processor_is() { if printf '%s' "$cpu" | grep -qE "^$2"; then listed=yes; fi; }
model_is() { if [ "$2" = "$model" ]; then listed=yes; fi; }
memory_is() {
  least=${2%% *}
  # What the firmware's table names, as the loader of the medium asks it: a twin's own memory is smaller.
  have=$(smbios 19 8 dword)
  words=${2#* }
  words=${words#\"}
  [ "$have" -ge "$least" ] || refuse "less memory than ${words%\"}"
}
gate_is() {
  [ "$1" = gate ] || return 0
  name=${2%% *}
  if [ "${2##* }" = skip ]; then
    say "  not checked: $name"
    return 0
  fi
  case $name in
    processor-list)
      each processors.conf processor_is
      [ $listed = yes ] || refuse "the processor ($cpu) is not on the list"
      ;;
    model)
      each models.conf model_is
      [ $listed = yes ] || refuse "the model ($model) is not on the list"
      ;;
    tpm) [ "$(smbios 43 8 byte)" = 2 ] || refuse "no TPM 2.0 in the firmware's table" ;;
    uefi) [ -d /sys/firmware/efi ] || refuse "started by legacy BIOS, not by UEFI" ;;
    memory-gate | setup-memory) each memory.conf memory_is ;;
    *) say "  seen later: $name" ;;
  esac
}

if [ -z "$medium" ]; then
  stop "there is no medium with an upgrade in this machine."
elif [ -n "$(blkid -t LABEL=boot -o device 2> /dev/null)" ]; then
  stop "its loader's files lie on a partition of their own, which this upgrade does not know."
elif [ ! -e /medium/live/vmlinuz ]; then
  stop "the medium ends at its checks: it carries no system."
else
  cpu=$(smbios 4 16 string)
  model=$(smbios 1 5 string)
  say "$(value title) installer, build $(value build), in the running system"
  say "machine: $model, $cpu"
  each gates.conf gate_is
  if [ $refused = yes ]; then
    say "This machine is not accepted. ($(value title))"
    sleep 3600
  fi
  say "This machine is accepted. The upgrade begins. ($(value title))"
  mkdir -p /boot/next
  if ! cp /medium/live/vmlinuz /medium/live/live.gz /boot/next/ || ! cp -r /medium/setup /boot/next/; then
    stop "copying fails: a file of the medium cannot be read, or the drive took no more."
  fi
  sync
  (cd /boot/next && sha256sum -c /medium/live/SHA256SUMS > /dev/null 2>&1) || stop "copying fails: what came from the medium is not what its maker wrote."
  write_loader '' "$(sed -n 's/^.*fb.root=\([^ ]*\).*$/\1/p' /proc/cmdline)" fb.over=1
  sync
  say "It restarts by itself."
  sleep 0.3
  reboot -f
fi
