"""The script that collects a snapshot of a Linux machine: plain POSIX shell, iproute2, nftables."""

COLLECT = """\
part() {  # NAME COMMAND …: one part, or a line that says why it is missing
  echo "== $1"; shift
  command -v "$1" >/dev/null 2>&1 || { echo "! there is no command $1 here"; return 0; }
  "$@" 2>/dev/null || echo "! $1 failed; run the script as root"
}

collect() {
  echo 'zensur snapshot 1'
  echo '== hostname'
  echo "${ZENSUR_DEVICE:-$(uname -n)}"
  part links ip -json -details link
  part addresses ip -json address
  part routes ip -json -4 route show table all
  part routes6 ip -json -6 route show table all
  part nftables nft --json list ruleset
  part vlans bridge -json vlan
  echo '== sysctl'
  for file in /proc/sys/net/ipv4/ip_forward /proc/sys/net/ipv6/conf/all/forwarding \\
              /proc/sys/net/ipv4/conf/*/proxy_arp; do
    [ -r "$file" ] || continue
    echo "$(echo "${file#/proc/sys/}" | sed 's|\\.|%|g; s|/|.|g; s|%|/|g') = $(cat "$file")"
  done
  echo '== resolver'
  if [ -n "${ZENSUR_DEVICE:-}" ]; then
    echo '# of the machine around it, and left out'
  else
    cat /etc/resolv.conf 2>/dev/null || echo '! there is no /etc/resolv.conf here'
  fi
}
"""
"""The two functions; ``ZENSUR_DEVICE`` is another name for the machine, such as a namespace's."""

SCRIPT = f"""\
#!/bin/sh
# What this Linux machine is configured as, in the form that Zensur reads. It changes nothing, and needs root for nft.
#
#   sh snapshot.sh > DEVICE.snapshot

{COLLECT}
collect
"""
"""The script as ``zensur snapshot-script`` prints it."""
