import { BlockList, isIPv6 } from "node:net";

/** Networks from which a proxy, or one's own machine, speaks for many: loopback, private and link-local ones. */
const inner = new BlockList();
inner.addSubnet("127.0.0.0", 8);
inner.addSubnet("10.0.0.0", 8);
inner.addSubnet("172.16.0.0", 12);
inner.addSubnet("192.168.0.0", 16);
inner.addSubnet("100.64.0.0", 10);
inner.addSubnet("169.254.0.0", 16);
inner.addAddress("::1", "ipv6");
inner.addSubnet("fc00::", 7, "ipv6");
inner.addSubnet("fe80::", 10, "ipv6");

/** The address of a connection, where it tells one client from another; undefined where many may stand behind it. */
export function clientAddress(remote: string | undefined): string | undefined {
  if (remote === undefined) return undefined;
  return inner.check(remote, isIPv6(remote) ? "ipv6" : "ipv4") ? undefined : remote;
}
