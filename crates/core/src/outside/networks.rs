//! Where this server may send to by itself: the open network, and of private ones those that are allowed.

use ipnet::IpNet;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

/// Whether an address is of a machine itself, of a private network, or of no place at all: what an address that somebody typed
/// may not lead to unless it is allowed. After the IANA's registries of special-purpose addresses (RFC 6890; recalled).
#[must_use]
pub fn is_private(address: IpAddr) -> bool {
    match address.to_canonical() {
        IpAddr::V4(v4) => is_private_v4(v4),
        IpAddr::V6(v6) => is_private_v6(v6),
    }
}

fn is_private_v4(address: Ipv4Addr) -> bool {
    let [first, second, third, _] = address.octets();
    address.is_loopback()
        || address.is_private()
        || address.is_link_local()
        || address.is_unspecified()
        || address.is_broadcast()
        || address.is_multicast()
        || address.is_documentation()
        || first == 0
        // Shared between carriers and their customers, and for measuring.
        || (first == 100 && (64..128).contains(&second))
        || (first == 198 && (18..20).contains(&second))
        || (first == 192 && second == 0 && third == 0)
        || first >= 240
}

fn is_private_v6(address: Ipv6Addr) -> bool {
    let parts = address.segments();
    address.is_loopback()
        || address.is_unspecified()
        || address.is_multicast()
        || address.is_unique_local()
        || address.is_unicast_link_local()
        // For documents, and addresses that hold one of version 4 (NAT64, 6to4, Teredo).
        || (parts[0] == 0x2001 && parts[1] == 0xdb8)
        || (parts[0] == 0x64 && parts[1] == 0xff9b)
        || parts[0] == 0x2002
        || (parts[0] == 0x2001 && parts[1] == 0)
}

/// Whether this server may send to an address: an open one, or one of the networks that are allowed.
#[must_use]
pub fn may_reach(address: IpAddr, allowed: &[IpNet]) -> bool {
    let address = address.to_canonical();
    !is_private(address) || allowed.iter().any(|network| network.contains(&address))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::the_machine("127.0.0.1", true)]
    #[case::the_machine_anywhere("127.8.9.1", true)]
    #[case::nowhere("0.0.0.0", true)]
    #[case::a_plant("10.20.30.40", true)]
    #[case::a_plant_of_twelve_bits("172.31.255.255", true)]
    #[case::beside_it("172.32.0.0", false)]
    #[case::a_house("192.168.1.1", true)]
    #[case::link_local_where_clouds_tell_secrets("169.254.169.254", true)]
    #[case::carriers("100.64.0.1", true)]
    #[case::beside_carriers("100.128.0.0", false)]
    #[case::open("93.184.215.14", false)]
    #[case::version_six("::1", true)]
    #[case::unique_local("fd12::1", true)]
    #[case::link_local("fe80::1", true)]
    #[case::four_in_six("::ffff:10.0.0.1", true)]
    #[case::by_translation("64:ff9b::a00:1", true)]
    #[case::open_six("2606:2800:21f:cb07:6820:80da:af6b:8b2c", false)]
    fn what_is_private(#[case] address: &str, #[case] private: bool) {
        let address = address.parse().unwrap();
        assert_eq!(is_private(address), private);
        assert_eq!(may_reach(address, &[]), !private);
    }

    #[test]
    fn what_is_allowed_is_reached_and_nothing_beside_it() {
        let allowed = ["10.20.0.0/16".parse().unwrap(), "fd12::/16".parse().unwrap()];
        for (address, may) in [
            ("10.20.255.1", true),
            ("10.21.0.1", false),
            ("::ffff:10.20.0.1", true),
            ("fd12:1::1", true),
            ("fd13::1", false),
            ("127.0.0.1", false),
        ] {
            assert_eq!(may_reach(address.parse().unwrap(), &allowed), may, "{address}");
        }
    }
}
