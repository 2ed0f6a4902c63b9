#!/bin/sh
# Makes the probe stick: a small image that starts by BIOS and by UEFI (32 and 64 bit), reads the machine by itself, shows
# the main facts in letters that can be read from a metre, keeps the bundle on its own FAT partition, and posts it while
# the bench network is heard (with the fresh-boot.conf that intake makes in its root folder).
#
#   sh probe/make-stick.sh [--conf fresh-boot.conf] [IMAGE]        IMAGE defaults to fresh-boot-stick.img
#   sh probe/make-stick.sh --kernel                                fetches the 64-bit kernel into the cache, and ends
#
# Copy the image to a stick with dd or any other tool that writes images block by block; everything on the stick is erased.
# Needs the Debian packages grub-common, grub-pc-bin, grub-efi-amd64-bin, grub-efi-ia32-bin, mtools, dosfstools, fdisk,
# busybox-static, cpio, kmod, binutils; uses smartmontools and pciutils where they are installed. Kernels are fetched with apt-get download
# and kept in FRESHBOOT_CACHE (default: .cache beside this folder). Nothing is installed, and root is not needed.
set -eu
here=$(cd "$(dirname "$0")" && pwd)
cache=${FRESHBOOT_CACHE:-$here/../.cache}/stick
conf='' out=fresh-boot-stick.img kernel=no
while [ $# -gt 0 ]; do
  case $1 in
    --conf) conf=$2; shift 2 ;;
    --kernel) kernel=yes; shift ;;
    -*) echo "usage: sh make-stick.sh [--kernel] [--conf fresh-boot.conf] [IMAGE]" >&2; exit 2 ;;
    *) out=$1; shift ;;
  esac
done
for program in grub-mkimage mkfs.vfat mcopy mmd sfdisk busybox cpio depmod strings apt-get dpkg-deb; do
  PATH=$PATH:/sbin:/usr/sbin command -v "$program" > /dev/null || {
    echo "make-stick: there is no $program; run: apt-get install grub-common grub-pc-bin grub-efi-amd64-bin grub-efi-ia32-bin mtools dosfstools fdisk busybox-static cpio kmod binutils" >&2
    exit 1
  }
done
PATH=$PATH:/sbin:/usr/sbin
export PATH
for platform in i386-pc x86_64-efi i386-efi; do
  [ -d "/usr/lib/grub/$platform" ] || { echo "make-stick: GRUB's files for $platform are missing; see the packages at the top of this script" >&2; exit 1; }
done

mkdir -p "$cache"
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
say() { echo "make-stick: $*"; }

# fetch NAME METAPACKAGE APT-OPTION...: a kernel and its modules into $cache/NAME, once.
fetch() {
  name=$1 meta=$2
  shift 2
  [ ! -e "$cache/$name/vmlinuz" ] || return 0
  package=$(apt-cache "$@" depends "$meta" 2> /dev/null | sed -n 's/.*Depends: \(linux-image-[0-9][^ ]*\).*/\1/p' | head -n 1)
  [ -n "$package" ] || return 1
  rm -rf "${work:?}/$name"
  mkdir "$work/$name"
  (cd "$work/$name" && apt-get -q "$@" download "$package" > apt.log 2>&1) || return 1
  dpkg-deb -x "$work/$name"/linux-image-*.deb "$work/$name/tree"
  mkdir -p "$cache/$name.part"
  cp "$work/$name"/tree/boot/vmlinuz-* "$cache/$name.part/vmlinuz"
  # Merged or not, the modules lie in lib/modules.
  modules=$(find "$work/$name/tree" -type d -path '*lib/modules/*' -prune | head -n 1)
  cp -r "$modules" "$cache/$name.part/"
  mv "$cache/$name.part" "$cache/$name"
}

# busybox32 APT-OPTION...: a busybox for the 32-bit kernel, once.
busybox32() {
  (cd "$work" && apt-get -q "$@" download busybox-static > busybox.log 2>&1) || return 1
  dpkg-deb -x "$work"/busybox-static_*_i386.deb "$work/busybox32" || return 1
  cp "$(find "$work/busybox32" -path '*bin/busybox' -type f | head -n 1)" "$cache/busybox-i386"
}

say "fetching the 64-bit kernel"
fetch amd64 linux-image-amd64 -o APT::Default-Release= || { say "no kernel can be fetched; run apt-get update" >&2; exit 1; }
[ "$kernel" = no ] || exit 0
has32=no
# A 32-bit kernel where the mirror has one, by package lists of its own: those of the system are not touched.
own32="-o APT::Architecture=i386 -o APT::Architectures=i386 -o Dir::State::lists=$cache/i386-lists -o Dir::Cache=$cache/i386-cache"
if [ ! -e "$cache/i386/vmlinuz" ] || [ ! -e "$cache/busybox-i386" ]; then
  say "fetching the 32-bit kernel"
  mkdir -p "$cache/i386-lists/partial" "$cache/i386-cache/archives/partial"
  # Some lists may be missing for this architecture; those that come are enough.
  # shellcheck disable=SC2086 # options without blanks in them
  apt-get -q $own32 update > "$work/lists.log" 2>&1 || true
fi
# shellcheck disable=SC2086
if fetch i386 linux-image-686 $own32 && { [ -e "$cache/busybox-i386" ] || busybox32 $own32; }; then
  has32=yes
else
  say "no 32-bit kernel can be fetched: 32-bit processors will be told so"
fi

# What a machine may need before it can be read: all drivers of buses, drives and wired networks, but for those of a size
# that only servers' cards have; and some by name.
FOLDERS="drivers/ata drivers/nvme/host drivers/cdrom drivers/mmc drivers/usb/host drivers/usb/storage drivers/net/ethernet drivers/net/usb"
LARGEST_KIB=400
WANTED="sd_mod sr_mod virtio_pci virtio_blk virtio_net virtio_scsi usbhid hid_generic vfat nls_cp437 nls_ascii nls_iso8859-1 efivarfs tpm_tis tpm_crb battery ac"
# initrd NAME: busybox, the probe, the modules and their order, an init.
initrd() {
  name=$1
  root=$work/root-$name
  mkdir -p "$root/bin" "$root/proc" "$root/sys" "$root/dev" "$root/tmp" "$root/stick" "$root/etc" "$root/usr/share/misc"
  modules=$(find "$cache/$name" -mindepth 1 -maxdepth 1 -type d | head -n 1)
  release=${modules##*/}
  mkdir -p "$root/lib/modules/$release"
  # The names with what each depends on, from the kernel's own list.
  [ -e "$modules/modules.dep" ] || depmod -b "$(dirname "$modules")/.." "$release" 2> /dev/null || true
  find "$modules" -name '*.ko*' | sed "s|^$modules/||" > "$work/all-$name"
  for folder in $FOLDERS; do
    (cd "$modules" && find "kernel/$folder" -name '*.ko*' -size "-${LARGEST_KIB}k" 2> /dev/null)
  done > "$work/take-$name"
  for module in $WANTED; do
    grep -E "/$(echo "$module" | sed 's/[-_]/[-_]/g')\.ko" "$work/all-$name" >> "$work/take-$name" || true
  done
  # Dependencies, to the end: each module names what it needs.
  while :; do
    before=$(wc -l < "$work/take-$name")
    while read -r file; do
      needs=$(strings -n 8 "$modules/$file" 2> /dev/null | sed -n 's/^depends=//p' | tr ',' ' ')
      for need in $needs; do
        grep -E "/$(echo "$need" | sed 's/[-_]/[-_]/g')\.ko" "$work/all-$name" || true
      done
    done < "$work/take-$name" > "$work/more-$name"
    sort -u "$work/take-$name" "$work/more-$name" -o "$work/take-$name"
    [ "$(wc -l < "$work/take-$name")" != "$before" ] || break
  done
  while read -r file; do
    mkdir -p "$root/lib/modules/$release/$(dirname "$file")"
    cp "$modules/$file" "$root/lib/modules/$release/$file"
  done < "$work/take-$name"
  depmod -b "$root" "$release" 2> /dev/null
  cp "$here/fresh-boot-probe.sh" "$root/probe.sh"
  cp "$here/stick-init.sh" "$root/init"
  cat > "$root/bin/dhcp-script" << 'DHCP'
#!/bin/busybox sh
[ "$1" = bound ] || [ "$1" = renew ] || exit 0
ip addr flush dev "$interface"
ip addr add "$ip/${mask:-24}" dev "$interface"
for gateway in $router; do ip route add default via "$gateway" dev "$interface"; done
DHCP
  chmod +x "$root/bin/dhcp-script"
  printf 'hosts: files\npasswd: files\ngroup: files\n' > "$root/etc/nsswitch.conf"
  printf '127.0.0.1 localhost\n' > "$root/etc/hosts"
  chmod +x "$root/init"
  if [ "$name" = i386 ]; then cp "$cache/busybox-i386" "$root/bin/busybox"; else cp "$(command -v busybox)" "$root/bin/busybox"; fi
  # Programs that ask drives and name chips; the probe does without where they are missing. Their libraries lie apart: the
  # static busybox would load a C library that it finds in the usual place, was not built with it, and falls over.
  if [ "$name" = amd64 ]; then
    mkdir -p "$root/opt/bin" "$root/opt/lib"
    for program in smartctl lspci lsblk lscpu; do
      path=$(command -v "$program" 2> /dev/null) || continue
      cp "$path" "$root/opt/bin/"
      printf '#!/bin/busybox sh\nLD_LIBRARY_PATH=/opt/lib exec /opt/bin/%s "$@"\n' "$program" > "$root/bin/$program"
      chmod +x "$root/bin/$program"
      ldd "$path" 2> /dev/null | grep -o '/[^ ]*' | while read -r library; do
        case $library in
          */ld-linux*) mkdir -p "$root$(dirname "$library")" && cp -L "$library" "$root$library" ;;
          *) cp -L "$library" "$root/opt/lib/" ;;
        esac
      done
    done
    [ ! -e /usr/share/misc/pci.ids ] || cp /usr/share/misc/pci.ids "$root/usr/share/misc/"
  fi
  (cd "$root" && find . | LC_ALL=C sort | cpio -o -H newc --quiet | gzip -6) > "$work/initrd-$name.gz"
}
say "packing the live system"
initrd amd64
[ "$has32" = no ] || initrd i386

# The loader: the same script by BIOS and by UEFI; it looks for the stick by the name of its file system.
cat > "$work/early.cfg" << 'CFG'
search --no-floppy --set=root --label FRESHBOOT
set prefix=($root)/boot/grub
configfile ($root)/boot/grub/grub.cfg
CFG
cat > "$work/grub.cfg" << 'CFG'
set timeout=0
if cpuid -l; then set kernel=amd64; else set kernel=i386; fi
echo "Fresh Boot: reading this machine. Nothing on it is changed."
if [ -f /boot/vmlinuz-$kernel ]; then
  linux /boot/vmlinuz-$kernel quiet loglevel=3 console=ttyS0,115200 console=tty0
  initrd /boot/initrd-$kernel.gz
  boot
fi
echo "This processor is 32-bit, and this stick has no 32-bit kernel."
echo "Read the label instead, and enter the facts by hand."
sleep 600
CFG
# shellcheck disable=SC2086 # a list of words
loader() { grub-mkimage -c "$work/early.cfg" -p /boot/grub "$@" $modules; }
modules="part_msdos part_gpt fat normal linux configfile search search_label echo test cpuid sleep boot minicmd serial terminal"
loader -O i386-pc -o "$work/core.img" biosdisk
loader -O x86_64-efi -o "$work/bootx64.efi"
loader -O i386-efi -o "$work/bootia32.efi"

# The image: boot code before the partition, one FAT32 partition with everything else.
say "writing $out"
start=2048
content=$(cat "$work"/initrd-*.gz "$cache"/*/vmlinuz | wc -c)
megabytes=$((content / 1048576 + 160))
image=$out.part
rm -f "$image"
truncate -s "${megabytes}M" "$image"
printf 'label: dos\nlabel-id: 0x46425354\nstart=%s, type=c, bootable\n' "$start" | sfdisk -q "$image"
mkfs.vfat -F 32 -n FRESHBOOT -i 46425354 --offset "$start" "$image" $(((megabytes * 2048 - start) / 2)) > /dev/null
# Boot sector without its last 72 bytes, which are the disk's signature and table; then the loader behind it.
dd if=/usr/lib/grub/i386-pc/boot.img of="$image" bs=440 count=1 conv=notrunc status=none
dd if="$work/core.img" of="$image" bs=512 seek=1 conv=notrunc status=none
[ "$(wc -c < "$work/core.img")" -lt $(((start - 1) * 512)) ] || { say "the loader does not fit before the partition" >&2; exit 1; }
fat=$image@@$((start * 512))
mmd -i "$fat" ::boot ::boot/grub ::EFI ::EFI/BOOT ::bundles
mcopy -i "$fat" "$work/grub.cfg" ::boot/grub/grub.cfg
mcopy -i "$fat" "$work/bootx64.efi" ::EFI/BOOT/BOOTX64.EFI
mcopy -i "$fat" "$work/bootia32.efi" ::EFI/BOOT/BOOTIA32.EFI
for name in amd64 i386; do
  if [ ! -e "$work/initrd-$name.gz" ]; then continue; fi
  mcopy -i "$fat" "$cache/$name/vmlinuz" "::boot/vmlinuz-$name"
  mcopy -i "$fat" "$work/initrd-$name.gz" "::boot/initrd-$name.gz"
done
[ -z "$conf" ] || mcopy -i "$fat" "$conf" ::fresh-boot.conf
mv "$image" "$out"
say "$out, $megabytes MiB, starts by BIOS and by UEFI$([ "$has32" = yes ] && echo ', on 32-bit processors too')"
