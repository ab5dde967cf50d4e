//! What is wrong with an installation, and how it is mended. It looks, and changes nothing.

use crate::backup::copies;
use crate::key;
use crate::service::now_ms;
use crate::tls;
use ruhe_store::{DATABASE, Shape, peek};
use std::net::{SocketAddr, TcpListener};
use std::path::{Path, PathBuf};

/// One thing that was looked at.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Looked {
    /// What, as it is.
    pub is: String,
    /// How it is mended, if something is wrong with it.
    pub mend: Option<String>,
}

/// What is asked about.
#[derive(Debug, Clone)]
pub struct Patient {
    /// The data folder.
    pub data: PathBuf,
    /// Where it should listen.
    pub binds: Vec<SocketAddr>,
    /// Where copies are put, if they are.
    pub backups: Option<PathBuf>,
}

fn well(is: impl Into<String>) -> Looked {
    Looked {
        is: is.into(),
        mend: None,
    }
}

fn ill(is: impl Into<String>, mend: impl Into<String>) -> Looked {
    Looked {
        is: is.into(),
        mend: Some(mend.into()),
    }
}

/// Free space below which a day's readings or a copy may no longer fit.
const LITTLE: u64 = 500_000_000;
/// A copy older than this is no copy of now, ms.
const OLD: i64 = 8 * 86_400_000;
const HOUR: i64 = 3_600_000;
/// This was written after that moment, 2026-01-01: a clock that says less is wrong.
const WRITTEN: i64 = 1_767_225_600_000;

/// Looks at everything there is to look at.
#[must_use]
pub fn doctor(p: &Patient) -> Vec<Looked> {
    let mut out = vec![folder(&p.data)];
    if p.data.join(DATABASE).exists() {
        out.push(space(&p.data));
        out.extend(database(&p.data));
    } else {
        out.push(well("no database yet: the first start makes one"));
    }
    out.extend(certificate(&p.data));
    out.extend(p.binds.iter().map(|b| address(*b)));
    out.extend(p.backups.as_deref().map(backups));
    out
}

fn folder(data: &Path) -> Looked {
    let at = data.display();
    if !data.exists() {
        return well(format!("{at}: not there yet; the first start makes it"));
    }
    let trial = data.join(".ruhe-doctor");
    let written = std::fs::write(&trial, b"").and_then(|()| std::fs::remove_file(&trial));
    if let Err(e) = written {
        return ill(
            format!("{at} cannot be written to: {e}"),
            "give the folder to the account that Ruhe runs as (chown -R), or look whether the disk is mounted read-only",
        );
    }
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        let mode = std::fs::metadata(data).map_or(0, |m| m.permissions().mode() & 0o777);
        if mode & 0o077 != 0 {
            return ill(
                format!("{at} may be looked into by others (mode {mode:o})"),
                format!("chmod 700 {at}"),
            );
        }
    }
    well(format!("{at} can be written to, and by its owner alone"))
}

#[cfg(unix)]
fn free(data: &Path) -> Option<u64> {
    let s = rustix::fs::statvfs(data).ok()?;
    Some(s.f_bavail.saturating_mul(s.f_frsize))
}
#[cfg(not(unix))]
fn free(_: &Path) -> Option<u64> {
    None
}

fn space(data: &Path) -> Looked {
    let size = std::fs::metadata(data.join(DATABASE)).map_or(0, |m| m.len());
    let mb = |bytes: u64| bytes / 1_000_000;
    match free(data) {
        None => well("how much space is free is not known here"),
        Some(free) if free < LITTLE.max(size) => ill(
            format!("{} MB free, and the database has {} MB", mb(free), mb(size)),
            "make room on that disk, or move the data folder to a larger one while Ruhe does not run",
        ),
        Some(free) => well(format!(
            "{} MB free; the database has {} MB",
            mb(free),
            mb(size)
        )),
    }
}

fn database(data: &Path) -> Vec<Looked> {
    let found = match peek(data) {
        Ok(found) => found,
        Err(e) => {
            return vec![ill(
                format!("the database cannot be read: {e}"),
                "put a copy back: ruhe restore COPY --data FOLDER",
            )];
        }
    };
    let shape = match found.shape {
        Shape::Same => well("the database is of this version"),
        Shape::Older => {
            well("the database is of an earlier version: the next start brings it up, after a copy")
        }
        Shape::Newer => ill(
            "the database is of a later version of Ruhe",
            "start that version, or put a copy from before it back",
        ),
    };
    let damage = match found.damage {
        None => well(
            "the database is sound; whether its content is as it was kept says ruhe verify --data",
        ),
        Some(what) => ill(
            format!("the database is damaged: {what}"),
            "stop Ruhe, keep this folder, and put the last copy back: ruhe restore COPY --data FOLDER",
        ),
    };
    let now = now_ms();
    let clock = match found.last_ms {
        _ if now < WRITTEN => ill(
            "the clock of this machine is years behind",
            "set it, or let it ask the network (timedatectl set-ntp true)",
        ),
        Some(last) if last > now + HOUR => ill(
            "the last entry was kept later than this machine’s clock says it is",
            "set the clock, or let it ask the network (timedatectl set-ntp true): readings and signatures have its time",
        ),
        _ => well("the clock is not behind what was kept"),
    };
    vec![shape, damage, clock, secret(data, found.last_ms.is_some())]
}

/// The key; before the first entry there need be none.
fn secret(data: &Path, has_entries: bool) -> Looked {
    if !has_entries && !key::is_there(data) {
        return well("no key yet: the next start makes one");
    }
    match key::load(data, false) {
        Ok(key) => well(format!(
            "entries are signed with the key {}",
            key.fingerprint()
        )),
        Err(e) => ill("the key cannot be used", e),
    }
}

fn certificate(data: &Path) -> Option<Looked> {
    let told = tls::root_of(data)?;
    Some(match told {
        Ok(until) => well(format!("Ruhe’s own root is valid until {until}")),
        Err(e) => ill(
            e,
            "take the folder tls away: the next start makes another root, and every device is told to trust it",
        ),
    })
}

fn address(bind: SocketAddr) -> Looked {
    match TcpListener::bind(bind) {
        Ok(_) => well(format!("{bind} is free")),
        Err(e) if e.kind() == std::io::ErrorKind::AddrInUse => well(format!(
            "something listens on {bind}: Ruhe itself, if it runs; else give another with --bind"
        )),
        Err(e) => ill(
            format!("{bind} cannot be listened on: {e}"),
            "give an address that this machine has, and a port above 1023",
        ),
    }
}

fn backups(folder: &Path) -> Looked {
    let now = now_ms();
    match copies(folder).last() {
        None => ill(
            format!("there is no copy in {}", folder.display()),
            "make one: ruhe backup FOLDER, or ruhe serve --backups FOLDER, which makes one each day",
        ),
        Some((ms, path)) if now - ms > OLD => ill(
            format!(
                "the last copy is {} days old: {}",
                (now - ms) / 86_400_000,
                path.display()
            ),
            "make one: ruhe backup FOLDER, and look why none was made: Ruhe says it in its own words where it runs",
        ),
        Some((_, path)) => well(format!("the last copy is {}", path.display())),
    }
}
