//! TLS: a certificate of one's own, or one that Ruhe makes from a root of its own in the data folder.
//!
//! The root may only vouch for names and addresses of a house: a phone that trusts it does not thereby trust it with
//! anything else, should its key be stolen.

use crate::key::keep_secret;
use rcgen::{
    BasicConstraints, CertificateParams, CidrSubnet, DistinguishedName, DnType,
    ExtendedKeyUsagePurpose, GeneralSubtree, IsCa, Issuer, KeyPair, KeyUsagePurpose,
    NameConstraints, SanType,
};
use ruhe_job::log::sha256;
use rustls::ServerConfig;
use rustls::pki_types::pem::PemObject as _;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};
use std::net::IpAddr;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// Names that exist only within a house (RFC 6762, RFC 8375, RFC 6761, and what routers and firms use).
const HOUSE: [&str; 6] = ["local", "home.arpa", "localhost", "internal", "lan", "home"];
/// Addresses that exist only within a house or a machine (RFC 1918, RFC 3927, RFC 4193, RFC 4291; RFC 6598 as some
/// networks of vehicles and sites use it).
const NETS: [&str; 9] = [
    "10.0.0.0/8",
    "172.16.0.0/12",
    "192.168.0.0/16",
    "169.254.0.0/16",
    "100.64.0.0/10",
    "127.0.0.0/8",
    "fc00::/7",
    "fe80::/10",
    "::1/128",
];
/// Longest that a certificate may last for phones to take it, days.
const LEAF_DAYS: i64 = 397;
/// The root is installed by hand on every device: it lasts ten years.
const ROOT_DAYS: i64 = 3_650;

/// The root as it is offered to other devices.
pub const ROOT_FILE: &str = "ruhe-root.crt";

/// What is needed to listen with TLS.
pub struct Tls {
    /// For the listener.
    pub config: ServerConfig,
    /// Ruhe's own root in PEM, if it is the root.
    pub root: Option<Root>,
}

/// Ruhe's own root.
#[derive(Debug, Clone)]
pub struct Root {
    /// In PEM.
    pub pem: String,
    /// SHA-256 of the certificate, in groups as systems show it.
    pub fingerprint: String,
}

fn told(what: &Path) -> impl Fn(std::io::Error) -> String + '_ {
    move |e| format!("{}: {e}", what.display())
}

fn text(e: &dyn std::fmt::Display) -> String {
    format!("the certificate: {e}")
}

fn config(
    chain: Vec<CertificateDer<'static>>,
    key: PrivateKeyDer<'static>,
) -> Result<ServerConfig, String> {
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    ServerConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()
        .map_err(|e| text(&e))?
        .with_no_client_auth()
        .with_single_cert(chain, key)
        .map_err(|e| text(&e))
}

/// A certificate of one's own: the chain and its key in PEM.
///
/// # Errors
/// If a file cannot be read, or they do not belong together.
pub fn own(chain: &Path, key: &Path) -> Result<Tls, String> {
    let certs = CertificateDer::pem_file_iter(chain)
        .map_err(|e| format!("{}: {e}", chain.display()))?
        .collect::<Result<Vec<_>, _>>()
        .map_err(|e| format!("{}: {e}", chain.display()))?;
    let secret =
        PrivateKeyDer::from_pem_file(key).map_err(|e| format!("{}: {e}", key.display()))?;
    Ok(Tls {
        config: config(certs, secret)?,
        root: None,
    })
}

/// The day so many days from now, as a certificate states it.
fn day(from_now: i64) -> Result<time::OffsetDateTime, String> {
    let now = time::OffsetDateTime::now_utc();
    now.checked_add(time::Duration::days(from_now))
        .ok_or_else(|| "the certificate: no such day".into())
}

/// What the root says of itself; it follows from its key alone, so that only the key need be kept.
fn root_params(key: &KeyPair) -> Result<CertificateParams, String> {
    let mut params = CertificateParams::new(vec![]).map_err(|e| text(&e))?;
    let mut name = DistinguishedName::new();
    let mark = &sha256(key.public_key_raw())[..8];
    name.push(DnType::CommonName, format!("Ruhe root {mark}"));
    params.distinguished_name = name;
    params.is_ca = IsCa::Ca(BasicConstraints::Constrained(0));
    params.key_usages = vec![KeyUsagePurpose::KeyCertSign, KeyUsagePurpose::CrlSign];
    let names = HOUSE
        .iter()
        .map(|n| GeneralSubtree::DnsName((*n).into()))
        .chain([GeneralSubtree::DnsName(machine())]);
    let nets = NETS
        .iter()
        .filter_map(|n| n.parse::<CidrSubnet>().ok())
        .map(GeneralSubtree::IpAddress);
    params.name_constraints = Some(NameConstraints {
        permitted_subtrees: names.chain(nets).collect(),
        excluded_subtrees: vec![],
    });
    params.not_before = day(-1)?;
    params.not_after = day(ROOT_DAYS)?;
    Ok(params)
}

/// What this machine is called.
fn machine() -> String {
    gethostname::gethostname()
        .to_string_lossy()
        .to_ascii_lowercase()
}

/// Names and addresses of this machine under which another device may reach it.
#[must_use]
pub fn own_names() -> Vec<String> {
    let mut out = vec![machine(), format!("{}.local", machine())];
    let nets = if_addrs::get_if_addrs().unwrap_or_default();
    out.extend(
        nets.iter()
            .map(if_addrs::Interface::ip)
            .filter(|ip| {
                !ip.is_loopback() && !matches!(ip, IpAddr::V6(v) if v.is_unicast_link_local())
            })
            .map(|ip| ip.to_string()),
    );
    out
}

/// Whether the root may vouch for a name.
#[must_use]
pub fn is_of_the_house(name: &str) -> bool {
    if let Ok(ip) = name.parse::<IpAddr>() {
        return NETS.iter().any(|n| within(ip, n));
    }
    let name = name.to_ascii_lowercase();
    name == machine()
        || HOUSE
            .iter()
            .any(|h| name == *h || name.ends_with(&format!(".{h}")))
}

fn within(ip: IpAddr, net: &str) -> bool {
    let Some((at, bits)) = net.split_once('/') else {
        return false;
    };
    let (Ok(at), Ok(bits)) = (at.parse::<IpAddr>(), bits.parse::<u32>()) else {
        return false;
    };
    match (ip, at) {
        (IpAddr::V4(a), IpAddr::V4(b)) => {
            let shift = 32 - bits;
            u32::from(a) >> shift == u32::from(b) >> shift
        }
        (IpAddr::V6(a), IpAddr::V6(b)) => {
            let shift = 128 - bits;
            u128::from(a) >> shift == u128::from(b) >> shift
        }
        _ => false,
    }
}

/// A certificate for these names from Ruhe's own root, which is made if there is none.
///
/// # Errors
/// If the folder cannot be used, or the root may not vouch for a name.
pub fn made(data: &Path, names: &[String]) -> Result<Tls, String> {
    if let Some(n) = names.iter().find(|n| !is_of_the_house(n)) {
        return Err(format!(
            "Ruhe's own root vouches only for names and addresses of a house (.local, .home.arpa, .internal, .lan, 10.…, 172.16.…, 192.168.… and the like), and {n} is none: give a certificate of your own with --certificate and --key"
        ));
    }
    let dir = data.join("tls");
    std::fs::create_dir_all(&dir).map_err(told(&dir))?;
    let (root_file, key_file) = (dir.join(ROOT_FILE), dir.join("ruhe-root.key"));
    if !key_file.exists() {
        let key = KeyPair::generate().map_err(|e| text(&e))?;
        let root = root_params(&key)?.self_signed(&key).map_err(|e| text(&e))?;
        std::fs::write(&root_file, root.pem()).map_err(told(&root_file))?;
        keep_secret(&key_file, key.serialize_pem().as_bytes())?;
    }
    let key = std::fs::read_to_string(&key_file).map_err(told(&key_file))?;
    let pem = std::fs::read_to_string(&root_file).map_err(told(&root_file))?;
    let key = KeyPair::from_pem(&key).map_err(|e| format!("{}: {e}", key_file.display()))?;
    let der = CertificateDer::from_pem_slice(pem.as_bytes())
        .map_err(|e| format!("{}: {e}", root_file.display()))?;
    let issuer = Issuer::new(root_params(&key)?, key);

    let leaf_key = KeyPair::generate().map_err(|e| text(&e))?;
    let mut leaf = CertificateParams::new(vec![]).map_err(|e| text(&e))?;
    leaf.distinguished_name = DistinguishedName::new();
    let first = names.first().cloned().unwrap_or_else(machine);
    leaf.distinguished_name.push(DnType::CommonName, first);
    leaf.subject_alt_names = names
        .iter()
        .map(|n| {
            Ok(match n.parse::<IpAddr>() {
                Ok(ip) => SanType::IpAddress(ip),
                Err(_) => SanType::DnsName(n.as_str().try_into().map_err(|e| text(&e))?),
            })
        })
        .collect::<Result<_, String>>()?;
    leaf.key_usages = vec![KeyUsagePurpose::DigitalSignature];
    leaf.extended_key_usages = vec![ExtendedKeyUsagePurpose::ServerAuth];
    leaf.use_authority_key_identifier_extension = true;
    leaf.not_before = day(-1)?;
    leaf.not_after = day(LEAF_DAYS - 1)?;
    let signed = leaf.signed_by(&leaf_key, &issuer).map_err(|e| text(&e))?;
    let secret = PrivateKeyDer::try_from(leaf_key.serialize_der()).map_err(|e| text(&e))?;
    Ok(Tls {
        config: config(vec![signed.der().clone()], secret)?,
        root: Some(Root {
            fingerprint: grouped(&sha256(&der)),
            pem,
        }),
    })
}

/// Hexadecimal digits in pairs, as systems show a fingerprint.
fn grouped(hex: &str) -> String {
    hex.as_bytes()
        .chunks(2)
        .map(|c| String::from_utf8_lossy(c).to_uppercase())
        .collect::<Vec<_>>()
        .join(":")
}

/// Where the certificate comes from.
#[derive(Debug, Clone, Default)]
pub enum Source {
    /// Ruhe's own root.
    #[default]
    Made,
    /// Files in PEM: the chain and its key.
    Own(PathBuf, PathBuf),
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_root_vouches_for_the_house_alone() {
        for good in [
            "192.168.7.20",
            "10.0.0.9",
            "172.31.255.1",
            "fd12::7",
            "shed.local",
            "ruhe.home.arpa",
            &machine(),
        ] {
            assert!(is_of_the_house(good), "{good}");
        }
        for bad in [
            "172.32.0.1",
            "198.51.100.7",
            "ruhe.example",
            "local.example",
            "2001:db8::1",
        ] {
            assert!(!is_of_the_house(bad), "{bad}");
        }
        let dir = tempfile::tempdir().unwrap();
        let refused = made(dir.path(), &["ruhe.example".into()]).err().unwrap();
        assert!(refused.contains("ruhe.example"), "{refused}");
    }

    #[test]
    fn the_root_stays_and_its_key_is_secret() {
        let dir = tempfile::tempdir().unwrap();
        let first = made(dir.path(), &["10.0.0.9".into()])
            .unwrap()
            .root
            .unwrap();
        let again = made(dir.path(), &["10.0.0.9".into(), "shed.local".into()])
            .unwrap()
            .root
            .unwrap();
        assert_eq!(first.pem, again.pem);
        assert_eq!(first.fingerprint.len(), 95);
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt as _;
            let key = std::fs::metadata(dir.path().join("tls/ruhe-root.key")).unwrap();
            assert_eq!(key.permissions().mode() & 0o777, 0o600);
        }
    }
}
