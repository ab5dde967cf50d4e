-- Everything that decides: entries of logs, added and never changed. json is the canonical text whose SHA-256 is hash.
CREATE TABLE entries (
  log TEXT NOT NULL, seq INTEGER NOT NULL, id TEXT NOT NULL UNIQUE, deed TEXT NOT NULL, json TEXT NOT NULL,
  hash TEXT NOT NULL, PRIMARY KEY (log, seq)
) STRICT;
CREATE INDEX entries_visits ON entries(log, seq) WHERE deed IN ('signed', 'visited');
-- Each entry signed with the installation's own key when it was kept: whoever has the file and not the key cannot change
-- what it says. A new key signs anew, beside the old signatures.
CREATE TABLE signatures (
  log TEXT NOT NULL, seq INTEGER NOT NULL, key TEXT NOT NULL, signature TEXT NOT NULL, PRIMARY KEY (log, seq, key)
) STRICT;
-- What an id was used for: the digest of the request that came with it.
CREATE TABLE told (id TEXT PRIMARY KEY NOT NULL, what TEXT NOT NULL) STRICT;
-- Where a test belongs, and whether it takes readings: derived from the log.
CREATE TABLE tests (
  n INTEGER PRIMARY KEY NOT NULL, id TEXT NOT NULL UNIQUE, circuit TEXT NOT NULL, is_open INTEGER NOT NULL
) STRICT;
CREATE INDEX tests_circuit ON tests(circuit);
CREATE INDEX tests_open ON tests(is_open) WHERE is_open = 1;
-- Recordings of ended tests, by the digest of their readings: one speaks for one test. Derived from the log.
CREATE TABLE recordings (
  digest TEXT NOT NULL, test TEXT NOT NULL, PRIMARY KEY (digest, test)
) STRICT;
-- What was typed is kept as typed; value is in the channel's unit. The end of a test seals its readings in the log.
CREATE TABLE readings (
  seq INTEGER PRIMARY KEY NOT NULL, id TEXT NOT NULL UNIQUE, test INTEGER NOT NULL REFERENCES tests(n),
  channel INTEGER NOT NULL, at_ms INTEGER NOT NULL, typed TEXT NOT NULL, value REAL NOT NULL, origin TEXT NOT NULL,
  actor TEXT NOT NULL, device TEXT NOT NULL, client_ms INTEGER, received_ms INTEGER NOT NULL, skewed INTEGER NOT NULL
) STRICT;
CREATE INDEX readings_test ON readings(test, at_ms);
-- What people typed among what gauges send at every second.
CREATE INDEX readings_by_hand ON readings(test, at_ms) WHERE origin IN ('live', 'later', 'corrected');
-- The bytes of a photo; its hash stands in the log.
CREATE TABLE photos (
  id TEXT PRIMARY KEY NOT NULL, circuit TEXT NOT NULL, mime TEXT NOT NULL, bytes BLOB NOT NULL
) STRICT;
CREATE INDEX photos_circuit ON photos(circuit);
-- The index that Today and the search read: derived, written in the transaction of every act, and can be rebuilt.
CREATE TABLE circuits (
  id TEXT PRIMARY KEY NOT NULL, seq INTEGER NOT NULL, job TEXT NOT NULL, site TEXT NOT NULL, place TEXT NOT NULL,
  system TEXT NOT NULL, serial TEXT NOT NULL, tag TEXT NOT NULL, name TEXT NOT NULL,
  refrigerant TEXT NOT NULL, stage TEXT NOT NULL, state TEXT, is_open INTEGER NOT NULL, at_ms INTEGER NOT NULL,
  words TEXT NOT NULL, json TEXT NOT NULL
) STRICT;
CREATE INDEX circuits_open ON circuits(is_open) WHERE is_open = 1;
CREATE INDEX circuits_at ON circuits(at_ms);
CREATE INDEX circuits_job ON circuits(job, at_ms, id);
CREATE TABLE sites (
  id TEXT PRIMARY KEY NOT NULL, name TEXT NOT NULL, place TEXT NOT NULL
) STRICT;
-- Who may come in. Names and roles stand in the log of people; here is what is secret, and what is asked at every call.
CREATE TABLE people (
  id TEXT PRIMARY KEY NOT NULL, name TEXT NOT NULL UNIQUE COLLATE NOCASE, role TEXT NOT NULL, password TEXT NOT NULL,
  is_out INTEGER NOT NULL
) STRICT;
-- Browsers and phones that are signed in; token is a SHA-256, the secret itself is only in the cookie.
CREATE TABLE sessions (
  id TEXT PRIMARY KEY NOT NULL, person TEXT NOT NULL REFERENCES people(id), token TEXT NOT NULL UNIQUE,
  device TEXT NOT NULL, is_paired INTEGER NOT NULL, made_ms INTEGER NOT NULL, seen_ms INTEGER NOT NULL,
  ends_ms INTEGER NOT NULL, paired_by TEXT
) STRICT;
CREATE INDEX sessions_person ON sessions(person);
CREATE INDEX sessions_paired_by ON sessions(paired_by);
-- Browsers on which a person signed in before: what strangers guess does not count on them. It lets nobody in.
CREATE TABLE known_devices (
  token TEXT PRIMARY KEY NOT NULL, person TEXT NOT NULL REFERENCES people(id), made_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX known_devices_person ON known_devices(person);
-- What was refused at the door, an hour a row.
CREATE TABLE refusals (
  hour_ms INTEGER NOT NULL, what TEXT NOT NULL, place TEXT NOT NULL, address TEXT NOT NULL, count INTEGER NOT NULL,
  PRIMARY KEY (hour_ms, what, place, address)
) STRICT;
-- Gauges that may send readings; token likewise.
CREATE TABLE gauges (
  id TEXT PRIMARY KEY NOT NULL, name TEXT NOT NULL UNIQUE COLLATE NOCASE, token TEXT NOT NULL UNIQUE,
  made_by TEXT NOT NULL, made_ms INTEGER NOT NULL, seen_ms INTEGER, is_simulated INTEGER NOT NULL, is_out INTEGER NOT NULL
) STRICT;
-- Which channel of which test a gauge's source is read into, as long as it runs.
CREATE TABLE bindings (
  gauge TEXT NOT NULL REFERENCES gauges(id), source TEXT NOT NULL, test INTEGER NOT NULL REFERENCES tests(n),
  channel INTEGER NOT NULL, PRIMARY KEY (gauge, source)
) STRICT;
CREATE INDEX bindings_test ON bindings(test);
-- Simulated gauges of this server: what they measure, so that they go on after a restart.
CREATE TABLE simulated (
  test INTEGER PRIMARY KEY NOT NULL REFERENCES tests(n), gauge TEXT NOT NULL REFERENCES gauges(id),
  truth TEXT NOT NULL, start_ms INTEGER NOT NULL
) STRICT;

-- What was kept stays as it is.
CREATE TRIGGER entries_keep BEFORE UPDATE ON entries BEGIN SELECT RAISE(ABORT, 'entries are insert-only'); END;
CREATE TRIGGER entries_stay BEFORE DELETE ON entries BEGIN SELECT RAISE(ABORT, 'entries are insert-only'); END;
CREATE TRIGGER signatures_keep BEFORE UPDATE ON signatures BEGIN SELECT RAISE(ABORT, 'signatures are insert-only'); END;
CREATE TRIGGER signatures_stay BEFORE DELETE ON signatures BEGIN SELECT RAISE(ABORT, 'signatures are insert-only'); END;
CREATE TRIGGER told_keep BEFORE UPDATE ON told BEGIN SELECT RAISE(ABORT, 'told is insert-only'); END;
CREATE TRIGGER told_stay BEFORE DELETE ON told BEGIN SELECT RAISE(ABORT, 'told is insert-only'); END;
CREATE TRIGGER readings_keep BEFORE UPDATE ON readings BEGIN SELECT RAISE(ABORT, 'readings are insert-only'); END;
CREATE TRIGGER readings_stay BEFORE DELETE ON readings BEGIN SELECT RAISE(ABORT, 'readings are insert-only'); END;
CREATE TRIGGER photos_keep BEFORE UPDATE ON photos BEGIN SELECT RAISE(ABORT, 'photos are insert-only'); END;
CREATE TRIGGER photos_stay BEFORE DELETE ON photos BEGIN SELECT RAISE(ABORT, 'photos are insert-only'); END;
CREATE TRIGGER recordings_keep BEFORE UPDATE ON recordings BEGIN SELECT RAISE(ABORT, 'recordings are insert-only'); END;
CREATE TRIGGER recordings_stay BEFORE DELETE ON recordings BEGIN SELECT RAISE(ABORT, 'recordings are insert-only'); END;
CREATE TRIGGER tests_stay BEFORE DELETE ON tests BEGIN SELECT RAISE(ABORT, 'tests are insert-only'); END;
CREATE TRIGGER tests_keep BEFORE UPDATE OF n, id, circuit ON tests BEGIN SELECT RAISE(ABORT, 'tests are insert-only'); END;
CREATE TRIGGER circuits_stay BEFORE DELETE ON circuits BEGIN SELECT RAISE(ABORT, 'circuits stay in the index'); END;
CREATE TRIGGER sites_stay BEFORE DELETE ON sites BEGIN SELECT RAISE(ABORT, 'sites stay in the index'); END;
CREATE TRIGGER sites_keep BEFORE UPDATE OF id ON sites BEGIN SELECT RAISE(ABORT, 'sites stay in the index'); END;
CREATE TRIGGER people_stay BEFORE DELETE ON people BEGIN SELECT RAISE(ABORT, 'people are shut out, not erased'); END;
CREATE TRIGGER gauges_stay BEFORE DELETE ON gauges BEGIN SELECT RAISE(ABORT, 'gauges are shut out, not erased'); END;
-- An entry stands right after the one before it.
CREATE TRIGGER entries_next BEFORE INSERT ON entries
  WHEN NEW.seq <> 1 + coalesce((SELECT max(seq) FROM entries WHERE log = NEW.log), 0)
  BEGIN SELECT RAISE(ABORT, 'this entry has no place in its log'); END;
-- A signed visit takes nothing more, whoever asks, but a witness, an addition, and the next visit.
CREATE TRIGGER entries_signed_keep BEFORE INSERT ON entries
  WHEN NEW.deed NOT IN ('countersigned', 'added', 'visited') AND 'signed' =
    (SELECT deed FROM entries WHERE log = NEW.log AND deed IN ('signed', 'visited') ORDER BY seq DESC LIMIT 1)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER photos_signed BEFORE INSERT ON photos
  WHEN 'signed' =
    (SELECT deed FROM entries WHERE log = NEW.circuit AND deed IN ('signed', 'visited') ORDER BY seq DESC LIMIT 1)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER tests_signed BEFORE UPDATE ON tests
  WHEN NEW.is_open = 1 AND 'signed' =
    (SELECT deed FROM entries WHERE log = NEW.circuit AND deed IN ('signed', 'visited') ORDER BY seq DESC LIMIT 1)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
-- An ended test takes no more readings.
CREATE TRIGGER readings_ended BEFORE INSERT ON readings WHEN (SELECT is_open FROM tests WHERE n = NEW.test) = 0
  BEGIN SELECT RAISE(ABORT, 'test has ended'); END;
-- The index says what the log says.
CREATE TRIGGER circuits_follow BEFORE INSERT ON circuits
  WHEN NEW.seq IS NOT (SELECT max(seq) FROM entries WHERE log = NEW.id)
  BEGIN SELECT RAISE(ABORT, 'the index does not follow the log'); END;
CREATE TRIGGER circuits_follow_on BEFORE UPDATE ON circuits
  WHEN NEW.id <> OLD.id OR NEW.seq IS NOT (SELECT max(seq) FROM entries WHERE log = NEW.id)
  BEGIN SELECT RAISE(ABORT, 'the index does not follow the log'); END;
