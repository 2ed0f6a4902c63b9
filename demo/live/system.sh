#!/bin/busybox sh
# shellcheck shell=dash
# The demo's own small system, started from the drive: what its first start asks, then a prompt that takes a few words.
export PATH=/opt/bin:/bin:/sbin HOME=/root TERM=linux
mount -t tmpfs tmpfs /tmp 2> /dev/null
# shellcheck source=demo/live/common.sh disable=SC1091 # setup put it there
. /common.sh
exec > /dev/tty0 2>&1
[ $line = /dev/ttyS0 ] && stty -F $line -echo 2> /dev/null
title='' build=''
# shellcheck disable=SC1091 # setup wrote it
. /etc/system.conf
say "$title $build, first process of the system on the drive"
[ ! -e /etc/swap ] || swapon "$(blkid -U "$(cat /etc/swap)")" 2> /dev/null
[ ! -e /etc/home ] || mount "$(blkid -U "$(cat /etc/home)")" /home 2> /dev/null

answer() {
  [ -e /etc/answers.conf ] || return 1
  text=$(sed -n "s/^answer $1 \"\(.*\)\"$/\1/p" /etc/answers.conf | head -n 1)
  [ -n "$text" ] && [ "$text" != ask ] && printf '%s' "$text"
}
ask() {
  if said=$(answer "$1"); then
    say "  $1: $said (answer file)"
    return
  fi
  say "? $1: $2"
  IFS= read -r said < $line
  said=$(printf '%s' "$said" | tr -d '\r')
  say "  $1: ${said:-(nothing)}"
}
if [ ! -e /etc/first-start-done ]; then
  ask computer "What is this computer called?"
  name=$said
  ask account "Who uses it?"
  user=$(printf '%s' "$said" | tr -cd 'a-z0-9-')
  ask password "A first password, or \"none\"."
  printf '%s' "$name" > /etc/hostname
  adduser -D -H -s /bin/sh "${user:-user}" 2> /dev/null
  [ ! -d /etc/second ] || say "  second patches: $(cd /etc/second && echo *)"
  sync
  : > /etc/first-start-done
fi
hostname "$(cat /etc/hostname)" 2> /dev/null
say "$title is ready."
while :; do
  say "? word: probe CODE, keep TEXT, kept, turn, upgrade, restart or off"
  IFS= read -r said < $line || sleep 1
  said=$(printf '%s' "$said" | tr -d '\r')
  case $said in
    'probe '* | probe)
      code=$(printf '%s' "${said#probe}" | tr -cd 'A-Za-z0-9')
      if sh /probe.sh --code "$code" /tmp/bundle.tar.gz > /tmp/probe.log 2>&1; then
        # It goes out by the second serial line, as a file would by a stick.
        if [ -e /dev/ttyS1 ]; then
          stty -F /dev/ttyS1 raw 2> /dev/null
          { echo; echo BEGIN; base64 /tmp/bundle.tar.gz; echo END; } > /dev/ttyS1
        fi
        say "The bundle is written."
      else
        say "The probe has stopped: $(tail -n 1 /tmp/probe.log)"
      fi
      ;;
    'keep '*)
      # A file of the person: an upgrade must leave it as it is.
      printf '%s\n' "${said#keep }" > /home/kept.txt
      sync
      say "It is kept."
      ;;
    kept) say "Kept: $(cat /home/kept.txt 2> /dev/null)" ;;
    turn)
      # shellcheck source=demo/live/turn.sh disable=SC1091 # setup put it there
      . /turn.sh
      ;;
    upgrade)
      # shellcheck source=demo/live/upgrade.sh disable=SC1091 # setup put it there
      . /upgrade.sh
      ;;
    restart) sync; say "Restarting."; sleep 0.3; reboot -f ;;
    off) sync; say "Off."; sleep 0.3; poweroff -f ;;
  esac
done
