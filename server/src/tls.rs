//! TLS: a certificate of one's own, or one that Ruhe makes from a root of its own in the data folder.
//!
//! The root may only vouch for names and addresses of a house: a phone that trusts it does not thereby trust it with
//! anything else, should its key be stolen.

use crate::key::{keep_secret, read_secret};
use crate::lock::lock;
use rcgen::{
    BasicConstraints, CertificateParams, CidrSubnet, DistinguishedName, DnType,
    ExtendedKeyUsagePurpose, GeneralSubtree, IsCa, Issuer, KeyPair, KeyUsagePurpose,
    NameConstraints, PublicKeyData as _, SanType,
};
use ruhe_job::log::sha256;
use rustls::ServerConfig;
use rustls::pki_types::pem::PemObject as _;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};
use rustls::server::{ClientHello, ResolvesServerCert};
use rustls::sign::CertifiedKey;
use std::net::IpAddr;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};
use std::time::Duration;
use x509_parser::prelude::{FromDer as _, X509Certificate};

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
/// A certificate is made anew when it has so many days left, and looked at so often.
const RENEWED: i64 = 60;
const LOOK: Duration = Duration::from_secs(6 * 3_600);
/// The root is installed by hand on every device: it lasts ten years.
const ROOT_DAYS: i64 = 3_650;

/// The root as it is offered to other devices.
pub const ROOT_FILE: &str = "ruhe-root.crt";
const KEY_FILE: &str = "ruhe-root.key";

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

/// The certificate that is shown; another takes its place while Ruhe runs.
#[derive(Debug)]
struct Current(Mutex<Arc<CertifiedKey>>);

impl ResolvesServerCert for Current {
    fn resolve(&self, _: ClientHello<'_>) -> Option<Arc<CertifiedKey>> {
        Some(lock(&self.0).clone())
    }
}

fn certified(
    chain: Vec<CertificateDer<'static>>,
    key: PrivateKeyDer<'static>,
) -> Result<Arc<CertifiedKey>, String> {
    let provider = rustls::crypto::ring::default_provider();
    CertifiedKey::from_der(chain, key, &provider)
        .map(Arc::new)
        .map_err(|e| match e {
            rustls::Error::InconsistentKeys(_) => text(&"it and its key do not belong together"),
            other => text(&other),
        })
}

fn config(current: Arc<Current>) -> Result<ServerConfig, String> {
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    Ok(ServerConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()
        .map_err(|e| text(&e))?
        .with_no_client_auth()
        .with_cert_resolver(current))
}

/// Refuses a certificate that is not valid now. Returns its public key.
fn must_be_valid(der: &[u8], file: &Path, mend: &str) -> Result<Vec<u8>, String> {
    let (_, c) = X509Certificate::from_der(der)
        .map_err(|e| format!("{}: it is no certificate ({e})", file.display()))?;
    let v = c.validity();
    if !v.is_valid() {
        return Err(format!(
            "{}: it is valid from {} to {}, and not now; {mend}",
            file.display(),
            v.not_before,
            v.not_after
        ));
    }
    Ok(c.public_key().raw.to_vec())
}

/// Ruhe's own root, as it lies in a data folder: until when it is valid, or why not. `None`: there is none.
#[must_use]
pub fn root_of(data: &Path) -> Option<Result<String, String>> {
    let file = data.join("tls").join(ROOT_FILE);
    file.exists().then(|| {
        read_secret(&data.join("tls").join(KEY_FILE))?;
        let pem = std::fs::read(&file).map_err(told(&file))?;
        let der = CertificateDer::from_pem_slice(&pem)
            .map_err(|e| format!("{}: it is no certificate ({e})", file.display()))?;
        must_be_valid(&der, &file, "it has run out")?;
        let (_, c) = X509Certificate::from_der(&der).map_err(|e| text(&e))?;
        Ok(c.validity().not_after.to_string())
    })
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
    for c in &certs {
        must_be_valid(c, chain, "give one that is")?;
    }
    let secret = PrivateKeyDer::from_pem_slice(&read_secret(key)?)
        .map_err(|e| format!("{}: {e}", key.display()))?;
    let current = Arc::new(Current(Mutex::new(certified(certs, secret)?)));
    Ok(Tls {
        config: config(current)?,
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
    // For servers alone: not for mail, programs or clients.
    params.extended_key_usages = vec![ExtendedKeyUsagePurpose::ServerAuth];
    // Not this machine's bare name: it would allow all names below it, and a machine called `dev` would vouch for all
    // of `.dev`. So a machine that is renamed needs no other root either.
    let names = HOUSE.iter().map(|n| GeneralSubtree::DnsName((*n).into()));
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
    let mut out = vec![format!("{}.local", machine())];
    if is_of_the_house(&machine()) {
        out.push(machine());
    }
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
    HOUSE
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
            "Ruhe's own root vouches only for names and addresses of a house (.local, .home.arpa, .internal, \
             .lan, 10.…, 172.16.…, 192.168.… and the like), and {n} is none: give a certificate of your own \
             with --certificate and --key"
        ));
    }
    let dir = data.join("tls");
    ruhe_store::folder_for_the_owner_alone(&dir).map_err(told(&dir))?;
    let (root_file, key_file) = (dir.join(ROOT_FILE), dir.join(KEY_FILE));
    if !key_file.exists() {
        let key = KeyPair::generate().map_err(|e| text(&e))?;
        let root = root_params(&key)?.self_signed(&key).map_err(|e| text(&e))?;
        let _ = std::fs::remove_file(&root_file);
        keep_secret(&root_file, root.pem().as_bytes())?;
        keep_secret(&key_file, key.serialize_pem().as_bytes())?;
    }
    let key = String::from_utf8(read_secret(&key_file)?)
        .map_err(|e| format!("{}: {e}", key_file.display()))?;
    let pem = std::fs::read_to_string(&root_file).map_err(told(&root_file))?;
    let key = KeyPair::from_pem(&key).map_err(|e| format!("{}: {e}", key_file.display()))?;
    let der = CertificateDer::from_pem_slice(pem.as_bytes())
        .map_err(|e| format!("{}: {e}", root_file.display()))?;
    let mend = "take the folder tls away, and Ruhe makes another root, which every device has to be told to trust";
    let public = must_be_valid(&der, &root_file, mend)?;
    if public != key.subject_public_key_info() {
        return Err(format!(
            "{}: it is not the certificate of the key beside it; {mend}",
            root_file.display()
        ));
    }
    let issuer = Issuer::new(root_params(&key)?, key);
    let current = Arc::new(Current(Mutex::new(leaf(&issuer, names, 0)?)));
    let renewed = (current.clone(), names.to_vec());
    std::thread::spawn(move || {
        let (current, names) = renewed;
        let mut made = time::OffsetDateTime::now_utc();
        loop {
            std::thread::sleep(LOOK);
            let now = time::OffsetDateTime::now_utc();
            if !is_due(made, now) {
                continue;
            }
            match leaf(&issuer, &names, 0) {
                Ok(next) => {
                    *lock(&current.0) = next;
                    made = now;
                }
                Err(e) => tracing::error!(e, "the certificate was not renewed"),
            }
        }
    });
    Ok(Tls {
        config: config(current)?,
        root: Some(Root {
            fingerprint: grouped(&sha256(&der)),
            pem,
        }),
    })
}

/// Whether a certificate that was made then is to be made anew.
fn is_due(made: time::OffsetDateTime, now: time::OffsetDateTime) -> bool {
    (now - made).whole_days() >= LEAF_DAYS - RENEWED
}

/// A certificate for these names, from `begins` days from now.
fn leaf(
    issuer: &Issuer<'_, KeyPair>,
    names: &[String],
    begins: i64,
) -> Result<Arc<CertifiedKey>, String> {
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
    leaf.not_before = day(begins - 1)?;
    leaf.not_after = day(begins + LEAF_DAYS - 1)?;
    let signed = leaf.signed_by(&leaf_key, issuer).map_err(|e| text(&e))?;
    let secret = PrivateKeyDer::try_from(leaf_key.serialize_der()).map_err(|e| text(&e))?;
    certified(vec![signed.der().clone()], secret)
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
        ] {
            assert!(is_of_the_house(good), "{good}");
        }
        for bad in [
            "172.32.0.1",
            "198.51.100.7",
            "ruhe.example",
            "local.example",
            // A bare name would open all names below it.
            "dev",
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
            let key = dir.path().join("tls/ruhe-root.key");
            let mode = std::fs::metadata(&key).unwrap().permissions().mode();
            assert_eq!(mode & 0o777, 0o600);
            let loose = std::fs::Permissions::from_mode(0o640);
            std::fs::set_permissions(&key, loose).unwrap();
            let why = made(dir.path(), &[]).err().unwrap();
            assert!(why.contains("chmod 600"), "{why}");
        }
    }

    /// What the root may do, as other programs read it (RFC 5280, 4.2.1.10 and 4.2.1.12).
    #[test]
    fn the_root_vouches_for_servers_alone_and_certificates_are_renewed() {
        let key = KeyPair::generate().unwrap();
        let root = root_params(&key).unwrap().self_signed(&key).unwrap();
        let (_, c) = X509Certificate::from_der(root.der()).unwrap();
        let usage = c.extended_key_usage().unwrap().unwrap().value.clone();
        assert!(usage.server_auth && !usage.client_auth && !usage.code_signing);
        assert!(!usage.email_protection && !usage.any);
        let may = c.name_constraints().unwrap().unwrap().value;
        let text = format!("{:?}", may.permitted_subtrees);
        assert!(text.contains("home.arpa") && !text.contains(&format!("{:?}", machine())));
        // A certificate of another day, before and after its time.
        let issuer = Issuer::new(root_params(&key).unwrap(), key);
        let names = ["shed.local".to_owned()];
        for (begins, is_valid) in [(0, true), (-LEAF_DAYS - 2, false), (3, false)] {
            let made = leaf(&issuer, &names, begins).unwrap();
            let found = must_be_valid(&made.cert[0], Path::new("it"), "mend it");
            assert_eq!(found.is_ok(), is_valid, "{begins}: {found:?}");
        }
        let now = time::OffsetDateTime::now_utc();
        let later = |days| now + time::Duration::days(days);
        assert!(!is_due(now, later(30)) && is_due(now, later(LEAF_DAYS - RENEWED)));
        // Long before it runs out: nobody is locked out by a machine that sleeps a weekend.
        const { assert!(RENEWED > 7) };
    }

    #[test]
    fn a_foreign_or_expired_certificate_is_refused_with_a_sentence() {
        let dir = tempfile::tempdir().unwrap();
        made(dir.path(), &[]).unwrap();
        let root = dir.path().join("tls").join(ROOT_FILE);
        let other = tempfile::tempdir().unwrap();
        made(other.path(), &[]).unwrap();
        std::fs::copy(other.path().join("tls").join(ROOT_FILE), &root).unwrap();
        let why = made(dir.path(), &[]).err().unwrap();
        assert!(
            why.contains("not the certificate of the key beside it"),
            "{why}"
        );
        // One of one's own that has run out, or that goes with another key.
        let key = KeyPair::generate().unwrap();
        let mut params = CertificateParams::new(vec!["ruhe.example".into()]).unwrap();
        let write = |name: &str, text: &str| {
            let at = dir.path().join(name);
            let _ = std::fs::remove_file(&at);
            keep_secret(&at, text.as_bytes()).unwrap();
            at
        };
        let good = write("good.crt", &params.self_signed(&key).unwrap().pem());
        params.not_after = day(-1).unwrap();
        let old = write("old.crt", &params.self_signed(&key).unwrap().pem());
        let own_key = write("own.key", &key.serialize_pem());
        let foreign = write("foreign.key", &KeyPair::generate().unwrap().serialize_pem());
        assert!(own(&good, &own_key).is_ok());
        let why = own(&old, &own_key).err().unwrap();
        assert!(why.contains("and not now"), "{why}");
        let why = own(&good, &foreign).err().unwrap();
        assert!(why.contains("belong together"), "{why}");
    }
}
