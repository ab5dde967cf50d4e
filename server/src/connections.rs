//! Connections: how many there may be, and how many from one place, so that nobody holds the others out by holding on.

use crate::lock::lock;
use crate::people::place;
use actix_web::dev::Extensions;
use actix_web::rt::net::TcpStream;
use std::any::Any;
use std::collections::HashMap;
use std::net::Shutdown;
use std::sync::{Arc, Mutex};

/// Most connections from one place.
const FROM_PLACE: usize = 256;
/// File descriptors that are wanted, and those that are needed for other things than connections.
const WANTED: u64 = 16_384;
const RESERVED: usize = 160;

/// Raises the number of files this process may open as far as it may; how many connections that leaves room for.
pub fn descriptors() -> usize {
    let may = rlimit::increase_nofile_limit(WANTED).unwrap_or(1_024);
    usize::try_from(may)
        .unwrap_or(1_024)
        .saturating_sub(RESERVED)
        .clamp(64, 16_000)
}

/// Connections that are open, by place.
#[derive(Clone, Default)]
pub struct Connections(Arc<Mutex<HashMap<String, usize>>>);

/// One of them; given back when it is closed.
struct Held {
    place: String,
    of: Connections,
}

impl Drop for Held {
    fn drop(&mut self) {
        let mut all = lock(&self.of.0);
        if let Some(n) = all.get_mut(&self.place) {
            *n -= 1;
            if *n == 0 {
                all.remove(&self.place);
            }
        }
    }
}

impl Connections {
    /// Counts a connection, and closes it at once where its place has too many.
    pub fn greet(&self, connection: &dyn Any, kept: &mut Extensions) {
        type Tls = actix_tls::accept::rustls_0_23::TlsStream<TcpStream>;
        let stream = match connection.downcast_ref::<TcpStream>() {
            Some(plain) => Some(plain),
            None => connection.downcast_ref::<Tls>().map(|t| t.get_ref().0),
        };
        let Some(stream) = stream else { return };
        let Ok(peer) = stream.peer_addr() else { return };
        let place = place(peer.ip());
        let count = {
            let mut all = lock(&self.0);
            let n = all.entry(place.clone()).or_default();
            *n += 1;
            *n
        };
        kept.insert(Arc::new(Held {
            place,
            of: self.clone(),
        }));
        if count > FROM_PLACE {
            let _ = socket2::SockRef::from(stream).shutdown(Shutdown::Both);
        }
    }
}
