//! The database as a keeper of logs: one transaction, and where something is judged in it, twice over. What is said is
//! tried first in a transaction that only reads, and what it bears on is judged there; then it is written, and nobody
//! who waits to write waits for a judge.

use super::act::Said;
use super::load::{entry_rows, line, readings_of};
use super::running::Patience;
use crate::error::ApiError;
use crate::state::AppState;
use ruhe_job::kit::InUse;
use ruhe_job::log::{Chain, Deed, Entry, ReadingLine, Seal, Who};
use ruhe_job::service::{self, Acted, Added, Keeper, Word, judged};
use ruhe_job::state::{Circuit, KitState, Now, Procedures, Test};
use ruhe_job::tell::{MOMENT_MS, Wanted};
use ruhe_store::{StoreError, Tx, rows};
use std::sync::Arc;

/// How often something is tried anew because the log went on meanwhile, before it is judged while others wait.
const TRIES: usize = 4;

/// What was found while it was only tried: about which test, at which end of its log.
struct Found {
    head: String,
    test: String,
    now: Arc<Now>,
    seal: Seal,
}

/// What a transaction may do.
enum Pass<'a> {
    /// Show.
    Look,
    /// Show, and add to a log and to readings that are forgotten again.
    Try {
        added: Vec<Entry>,
        chain: Option<Chain>,
        lines: Vec<(String, ReadingLine)>,
        found: &'a mut Vec<Found>,
    },
    /// Write, with what was found before; where that is no longer so: to be tried anew, if `stale` is there to say it.
    Write {
        found: &'a [Found],
        stale: Option<&'a mut bool>,
    },
}

/// See [`self`].
pub struct Desk<'a, 't> {
    state: &'a AppState,
    /// The transaction.
    pub tx: &'a mut Tx<'t>,
    patience: Patience,
    pass: Pass<'a>,
}

impl AppState {
    /// Shows something.
    ///
    /// # Errors
    /// What `f` says.
    pub fn look<T>(
        &self,
        patience: Patience,
        f: impl FnOnce(&mut Desk<'_, '_>) -> Result<T, ApiError>,
    ) -> Result<T, ApiError> {
        self.store.read(|tx| {
            f(&mut Desk {
                state: self,
                tx,
                patience,
                pass: Pass::Look,
            })
        })
    }

    /// Writes what somebody said, judged before it is written.
    ///
    /// # Errors
    /// As [`Self::write_for`].
    pub fn say<T>(
        &self,
        said: &Said,
        f: impl Fn(&mut Desk<'_, '_>) -> Result<T, ApiError>,
    ) -> Result<T, ApiError> {
        for attempt in 0..=TRIES {
            let mut found = vec![];
            self.store.read(|tx| {
                // Whatever stands in its way is said where it is written.
                let _ = f(&mut Desk {
                    state: self,
                    tx,
                    patience: Patience::Any,
                    pass: Pass::Try {
                        added: vec![],
                        chain: None,
                        lines: vec![],
                        found: &mut found,
                    },
                });
                Ok::<_, ApiError>(())
            })?;
            let mut stale = false;
            let done = self.write_for(said, |tx| {
                f(&mut Desk {
                    state: self,
                    tx,
                    patience: Patience::Any,
                    pass: Pass::Write {
                        found: &found,
                        stale: (attempt < TRIES).then_some(&mut stale),
                    },
                })
            });
            if !stale {
                return done;
            }
        }
        Err(ApiError::Inside("what is tried is not written".into()))
    }

    /// Lets a rule decide about a circuit as of when it was said, and tells who looks at it that it changed.
    ///
    /// # Errors
    /// As [`Self::say`].
    pub fn act(
        &self,
        circuit: &str,
        said: &Said,
        rule: impl Fn(&mut Desk<'_, '_>, &Circuit, &Word<'_>) -> Result<Vec<Deed>, ApiError>,
    ) -> Result<Acted, ApiError> {
        let spoken = said.spoken(self.now_ms());
        let word = spoken.word();
        let acted = self.say(said, |desk| {
            service::decide(desk, circuit, word.who, word.now_ms, |desk, c| {
                rule(desk, c, &word)
            })
        })?;
        self.changed(circuit, acted.test.as_deref());
        Ok(acted)
    }

    /// Lets the rule of something about a test decide.
    ///
    /// # Errors
    /// As [`Self::say`].
    pub fn act_on(
        &self,
        test: &str,
        said: &Said,
        rule: impl Fn(&mut Desk<'_, '_>, &Word<'_>) -> Result<Acted, ApiError>,
    ) -> Result<Acted, ApiError> {
        let spoken = said.spoken(self.now_ms());
        let acted = self.say(said, |desk| rule(desk, &spoken.word()))?;
        let of = self.store.read(|tx| self.circuit_of(tx, test))?;
        self.changed(&of, Some(test));
        Ok(acted)
    }

    /// Writes what needs no judge.
    ///
    /// # Errors
    /// As [`Self::write_for`].
    pub fn write_now<T>(
        &self,
        said: &Said,
        f: impl FnOnce(&mut Desk<'_, '_>) -> Result<T, ApiError>,
    ) -> Result<T, ApiError> {
        self.write_for(said, |tx| {
            f(&mut Desk {
                state: self,
                tx,
                patience: Patience::Any,
                pass: Pass::Write {
                    found: &[],
                    stale: None,
                },
            })
        })
    }

    /// Lets a rule decide where nobody waits: as the demo is built, before anybody looks.
    ///
    /// # Errors
    /// As [`Self::write_for`].
    pub fn act_alone(
        &self,
        circuit: &str,
        said: &Said,
        rule: impl FnOnce(&mut Desk<'_, '_>, &Circuit, &Word<'_>) -> Result<Vec<Deed>, ApiError>,
    ) -> Result<Acted, ApiError> {
        let spoken = said.spoken(self.now_ms());
        let word = spoken.word();
        self.write_now(said, |desk| {
            service::decide(desk, circuit, word.who, word.now_ms, |desk, c| {
                rule(desk, c, &word)
            })
        })
    }
}

impl Desk<'_, '_> {
    /// Keeps a photo beside the log.
    ///
    /// # Errors
    /// Database trouble.
    pub fn add_photo(&mut self, photo: &rows::Photo) -> Result<(), ApiError> {
        if let Pass::Write { .. } = self.pass {
            self.tx.add_photo(photo)?;
        }
        Ok(())
    }

    /// What was added to a log while it is only tried.
    fn added(&self, log: &str) -> Option<(&[Entry], &Chain)> {
        match &self.pass {
            Pass::Try {
                added,
                chain: Some(chain),
                ..
            } if chain.log == log => Some((added, chain)),
            _ => None,
        }
    }

    /// The hash of a log's end.
    fn head(&mut self, log: &str) -> Result<String, ApiError> {
        if let Some((_, chain)) = self.added(log) {
            return Ok(chain.hash.clone());
        }
        Ok(self.tx.last(log)?.map_or_else(String::new, |e| e.hash))
    }

    /// What is found about a test as the log stands.
    fn found(&mut self, t: &Test) -> Result<(Arc<Now>, Seal), ApiError> {
        let mut lines = readings_of(self.tx, &t.id)?;
        if let Pass::Try { lines: more, .. } = &self.pass {
            let of = |(test, line): &(String, ReadingLine)| (*test == t.id).then(|| line.clone());
            lines.extend(more.iter().filter_map(of));
            lines.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
        }
        let (now, seal) = judged(t, &lines);
        Ok((Arc::new(now), seal))
    }
}

impl Keeper for Desk<'_, '_> {
    type Error = ApiError;

    fn circuit(&mut self, id: &str) -> Result<Circuit, ApiError> {
        let folded = self.folded(id)?;
        self.state.shown_by(self.tx, &folded, self.patience)
    }
    fn folded(&mut self, id: &str) -> Result<Arc<Circuit>, ApiError> {
        let Some((added, chain)) = self.added(id) else {
            return self.state.folded(self.tx, id);
        };
        let (added, hash) = (added.to_vec(), chain.hash.clone());
        let (mut entries, _) = self.state.kept(self.tx, id)?;
        entries.extend(added);
        Ok(Arc::new(Circuit::fold(entries, &hash)?))
    }
    fn circuit_of(&mut self, test: &str) -> Result<String, ApiError> {
        self.state.circuit_of(self.tx, test)
    }
    fn log_with(&mut self, entry: &str) -> Result<Option<String>, ApiError> {
        Ok(self.tx.entry(entry)?.map(|e| e.log))
    }
    fn rig(&mut self, id: &str) -> Result<Option<Circuit>, ApiError> {
        self.state.rig(self.tx, Some(id))
    }
    fn kit(&mut self) -> Result<KitState, ApiError> {
        self.state.kit(self.tx)
    }
    fn procedures(&mut self) -> Result<Procedures, ApiError> {
        self.state.procedures(self.tx)
    }
    fn in_use(&mut self) -> Result<Vec<InUse>, ApiError> {
        crate::routes::in_use(self.tx)
    }
    fn reading(&mut self, id: &str) -> Result<Option<(String, ReadingLine)>, ApiError> {
        let row = match self.tx.reading(id) {
            Ok(row) => row,
            Err(StoreError::Missing(_)) => return Ok(None),
            Err(e) => return Err(e.into()),
        };
        Ok(Some((self.tx.test_of(row.test)?.id, line(row))))
    }
    fn latest(&mut self, test: &str, most: usize) -> Result<Vec<ReadingLine>, ApiError> {
        let n = self.tx.test(test)?.n;
        let rows = self.tx.latest_readings(n, most as i64)?;
        Ok(rows.into_iter().map(line).collect())
    }
    fn wanted(&mut self, test: &str, wanted: &Wanted) -> Result<Vec<ReadingLine>, ApiError> {
        let n = self.tx.test(test)?.n;
        let rows = match wanted {
            Wanted::Before {
                before_ms,
                by_hand,
                most,
            } => self
                .tx
                .readings_before(n, *before_ms, *by_hand, *most as i64)?,
            Wanted::Around(moments) => {
                let mut out = vec![];
                for ms in moments.iter().rev() {
                    let around = (ms - MOMENT_MS + 1, ms + MOMENT_MS - 1);
                    out.extend(self.tx.readings_between(n, around)?);
                }
                out
            }
            Wanted::These(ids) => {
                let mut out = vec![];
                for id in ids {
                    out.push(self.tx.reading(id)?);
                }
                out.sort_by_key(|r| std::cmp::Reverse(r.at_ms));
                out
            }
        };
        Ok(rows.into_iter().map(line).collect())
    }
    fn judged(&mut self, t: &Test) -> Result<(Arc<Now>, Seal), ApiError> {
        let row = self.tx.test(&t.id)?;
        let head = self.head(&row.circuit)?;
        match &mut self.pass {
            Pass::Look => self.found(t),
            Pass::Try { .. } => {
                let (now, seal) = self.found(t)?;
                if let Pass::Try { found, .. } = &mut self.pass {
                    found.push(Found {
                        head,
                        test: t.id.clone(),
                        now: now.clone(),
                        seal: seal.clone(),
                    });
                }
                Ok((now, seal))
            }
            Pass::Write { found, stale } => {
                let count = u64::try_from(self.tx.count_readings(row.n)?).unwrap_or(0);
                let as_tried =
                    |f: &&Found| (&f.head, &f.test, f.seal.count) == (&head, &t.id, count);
                if let Some(f) = found.iter().find(as_tried) {
                    return Ok((f.now.clone(), f.seal.clone()));
                }
                if let Some(stale) = stale {
                    **stale = true;
                    return Err(ApiError::Conflict(
                        "others write to this circuit just now".into(),
                    ));
                }
                self.found(t)
            }
        }
    }

    fn append(
        &mut self,
        chain: &mut Chain,
        who: &Who,
        now_ms: i64,
        deeds: Vec<Deed>,
    ) -> Result<(), ApiError> {
        match &mut self.pass {
            Pass::Look => Err(ApiError::Inside("nothing is added while looking".into())),
            Pass::Try {
                added, chain: end, ..
            } => {
                let kept = chain
                    .append(who, now_ms, deeds)
                    .map_err(super::act::unkept)?;
                added.extend(kept.into_iter().map(|(e, ..)| e));
                *end = Some(chain.clone());
                Ok(())
            }
            Pass::Write { .. } => {
                let kept = self.state.append(self.tx, chain, who, now_ms, deeds);
                kept.map(|_| ())
            }
        }
    }
    fn add_readings(&mut self, test: &str, lines: &[ReadingLine]) -> Result<Added, ApiError> {
        if !matches!(self.pass, Pass::Write { .. }) {
            return Ok(Added::default());
        }
        let n = self.tx.test(test)?.n;
        let stored = self.tx.add_readings(&entry_rows(n, lines))?;
        Ok(Added {
            new: stored.new,
            known: stored.known,
        })
    }
    fn correct_reading(&mut self, test: &str, line: &ReadingLine) -> Result<(), ApiError> {
        match &mut self.pass {
            Pass::Look => {}
            Pass::Try { lines, .. } => lines.push((test.to_owned(), line.clone())),
            Pass::Write { .. } => {
                let row = self.tx.test(test)?;
                self.tx.set_open(test, true)?;
                self.add_readings(test, std::slice::from_ref(line))?;
                self.tx.set_open(test, row.is_open)?;
            }
        }
        Ok(())
    }
    fn follow(&mut self, circuit: &str) -> Result<(), ApiError> {
        match self.pass {
            Pass::Write { .. } => self.state.follow(self.tx, circuit),
            _ => Ok(()),
        }
    }
    fn vouch(&mut self, c: &Circuit, whole: bool) -> Result<(), ApiError> {
        if whole {
            self.state.must_be_whole(self.tx, &c.id)
        } else {
            self.state.must_be_sealed(self.tx, c, false)
        }
    }
}
