"""What nodes learn before the first packet: advertisements, leases, routes; compiled into them."""
