//! Live streams that are open: counted by session and by place, and ended with their session.

use crate::error::ApiError;
use crate::lock::lock;
use std::collections::HashMap;
use std::sync::{Arc, Mutex};
use tokio::sync::oneshot;

/// Most of one session: tabs of one browser.
const OF_SESSION: usize = 16;
/// Most from one place.
const FROM_PLACE: usize = 96;
/// Most of all.
const OF_ALL: usize = 600;

struct Open {
    session: Option<String>,
    place: String,
    /// Dropped, it ends the stream.
    _alive: oneshot::Sender<()>,
}

/// Streams by number.
#[derive(Default)]
pub struct Streams(Mutex<(u64, HashMap<u64, Open>)>);

/// One stream's place among them, given back when it is dropped.
pub struct Held {
    n: u64,
    of: Arc<Streams>,
}

impl Drop for Held {
    fn drop(&mut self) {
        lock(&self.of.0).1.remove(&self.n);
    }
}

impl Streams {
    /// Opens one: its place, and what tells that it is to end.
    ///
    /// # Errors
    /// If there are too many.
    pub fn open(
        self: &Arc<Self>,
        session: Option<&str>,
        place: &str,
    ) -> Result<(Held, oneshot::Receiver<()>), ApiError> {
        let mut all = lock(&self.0);
        let count = |is: &dyn Fn(&Open) -> bool| all.1.values().filter(|o| is(o)).count();
        let of_session = count(&|o| session.is_some() && o.session.as_deref() == session);
        if all.1.len() >= OF_ALL
            || of_session >= OF_SESSION
            || count(&|o| o.place == place) >= FROM_PLACE
        {
            return Err(ApiError::TooMany {
                message: "too many live pages are open here: close some".into(),
                wait_s: 30,
            });
        }
        let (alive, ended) = oneshot::channel();
        all.0 += 1;
        let n = all.0;
        let open = Open {
            session: session.map(Into::into),
            place: place.into(),
            _alive: alive,
        };
        all.1.insert(n, open);
        Ok((
            Held {
                n,
                of: self.clone(),
            },
            ended,
        ))
    }

    /// Ends those whose session is none any more; those without a session too, once people are known.
    pub fn keep(&self, has_people: bool, is_alive: impl Fn(&str) -> bool) {
        let mut all = lock(&self.0);
        all.1.retain(|_, o| match &o.session {
            Some(s) => is_alive(s),
            None => !has_people,
        });
    }

    /// How many are open.
    #[must_use]
    pub fn count(&self) -> usize {
        lock(&self.0).1.len()
    }
}
