# shellcheck shell=dash
# What setup, the installed system and its upgrade have in common.

line=/dev/ttyS0
[ -e $line ] || line=/dev/tty0
say() {
  echo "$*"
  [ $line = /dev/tty0 ] || echo "$*" > $line
}
stop() {
  say "Setup has stopped: $*"
  sleep 3600
}

# find_medium: mounts whatever carries /setup/system.conf at /medium, and leaves its device in $medium; an empty one for none.
find_medium() {
  medium=''
  waited=0
  mkdir -p /medium
  while [ -z "$medium" ] && [ $waited -lt 25 ]; do
    for device in /dev/sr? /dev/sd? /dev/sd?[0-9]*; do
      [ -b "$device" ] || continue
      for kind in iso9660 vfat; do
        mount -t $kind -o ro "$device" /medium 2> /dev/null || continue
        [ -e /medium/setup/system.conf ] && medium=$device && break 2
        umount /medium
      done
    done
    [ -n "$medium" ] || sleep 0.3
    waited=$((waited + 1))
  done
}

# value KEY: what the system.conf of the new system says of it.
conf=/medium/setup/system.conf
value() { sed -n "s/^set $1=\"\{0,1\}\([^\"]*\)\"\{0,1\}$/\1/p" "$conf"; }

# copy_system: the programs of this archive onto the drive at /target, over those of an older system; fails where it takes no more.
copy_system() {
  cp -af /bin /opt /lib /probe.sh /common.sh /upgrade.sh /turn.sh /target/ || return 1
  [ ! -d /lib64 ] || cp -af /lib64 /target/ || return 1
  cp /system.sh /target/sbin/init.new && chmod +x /target/sbin/init.new && mv /target/sbin/init.new /target/sbin/init
}

# write_loader ROOT UUID MORE: what the loader on the drive reads; MORE is added to the line of the kernel.
write_loader() {
  told=''
  [ -z "$(value cap)" ] || told=" mem=$(value cap)"
  [ -z "$(value systemWithout)" ] || told="$told fb.without=$(value systemWithout)"
  mkdir -p "$1/boot/loader"
  cat > "$1/boot/loader/loader.new" << CFG
if [ "\$grub_platform" = pc ] ; then
  if serial --unit=0 --speed=115200 ; then
    terminal_output console serial
  fi
fi
echo "$(value title): starting from the drive"
if [ -f /boot/vmlinuz ] ; then set at=/boot ; else set at= ; fi
linux \$at/${3:+next/}vmlinuz quiet loglevel=3 no_timer_check console=tty0 console=ttyS0,115200 fb.root=$2$told $3
initrd \$at/${3:+next/}live.gz
boot
CFG
  mv "$1/boot/loader/loader.new" "$1/boot/loader/loader.cfg"
}
