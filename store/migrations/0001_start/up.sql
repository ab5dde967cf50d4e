CREATE TABLE sites (
  id TEXT PRIMARY KEY NOT NULL, name TEXT NOT NULL, place TEXT NOT NULL
) STRICT;
CREATE TABLE systems (
  id TEXT PRIMARY KEY NOT NULL, site_id TEXT NOT NULL REFERENCES sites(id),
  name TEXT NOT NULL, model TEXT NOT NULL, serial TEXT NOT NULL
) STRICT;
CREATE INDEX systems_site ON systems(site_id);
CREATE TABLE circuits (
  id TEXT PRIMARY KEY NOT NULL, system_id TEXT NOT NULL REFERENCES systems(id),
  tag TEXT NOT NULL, name TEXT NOT NULL, kind TEXT NOT NULL, refrigerant TEXT NOT NULL,
  scope TEXT NOT NULL, volume_l REAL, created_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX circuits_system ON circuits(system_id);
-- A survey is a document; a correction is a new version, and the old one stays.
CREATE TABLE surveys (
  seq INTEGER PRIMARY KEY NOT NULL, circuit_id TEXT NOT NULL REFERENCES circuits(id), json TEXT NOT NULL, at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX surveys_circuit ON surveys(circuit_id);
CREATE TABLE photos (
  id TEXT PRIMARY KEY NOT NULL, circuit_id TEXT NOT NULL REFERENCES circuits(id), mime TEXT NOT NULL,
  bytes BLOB NOT NULL, at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX photos_circuit ON photos(circuit_id);
-- A look at a suspect place, or a repair there, in the order things happened.
CREATE TABLE looks (
  id TEXT PRIMARY KEY NOT NULL, circuit_id TEXT NOT NULL REFERENCES circuits(id), place TEXT NOT NULL,
  section TEXT, method TEXT NOT NULL, finding TEXT NOT NULL, dwell_s REAL, at_pa REAL, note TEXT NOT NULL, photo_id TEXT REFERENCES photos(id),
  at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX looks_circuit ON looks(circuit_id);
CREATE INDEX looks_photo ON looks(photo_id);
CREATE TABLE repairs (
  id TEXT PRIMARY KEY NOT NULL, circuit_id TEXT NOT NULL REFERENCES circuits(id), place TEXT NOT NULL,
  section TEXT, cause TEXT NOT NULL, words TEXT NOT NULL, torque_nm REAL, with_torch INTEGER NOT NULL, at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX repairs_circuit ON repairs(circuit_id);
-- A procedure of one's own; the same code again is its next version.
CREATE TABLE procedures (
  seq INTEGER PRIMARY KEY NOT NULL, code TEXT NOT NULL, json TEXT NOT NULL, at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX procedures_code ON procedures(code);
-- A thing of the kit is a document; a change is its next version. A rig is a circuit of the kind "kit" besides.
CREATE TABLE kit (
  seq INTEGER PRIMARY KEY NOT NULL, item_id TEXT NOT NULL, kind TEXT NOT NULL, json TEXT NOT NULL, at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX kit_item ON kit(item_id);
CREATE TABLE tests (
  id TEXT PRIMARY KEY NOT NULL, circuit_id TEXT NOT NULL REFERENCES circuits(id),
  kind TEXT NOT NULL, attempt INTEGER NOT NULL, plan TEXT NOT NULL, created_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX tests_circuit ON tests(circuit_id);
CREATE TABLE channels (
  id TEXT PRIMARY KEY NOT NULL, test_id TEXT NOT NULL REFERENCES tests(id), place INTEGER NOT NULL,
  name TEXT NOT NULL, quantity TEXT NOT NULL, unit TEXT NOT NULL, resolution REAL, accuracy REAL, range_top REAL,
  position TEXT, volume_share REAL, reference TEXT, principle TEXT, extra TEXT NOT NULL
) STRICT;
CREATE INDEX channels_test ON channels(test_id);
-- What was typed is kept as typed; value is in the channel's unit.
CREATE TABLE readings (
  seq INTEGER PRIMARY KEY NOT NULL, id TEXT NOT NULL UNIQUE, test_id TEXT NOT NULL REFERENCES tests(id),
  channel_id TEXT NOT NULL REFERENCES channels(id), at_ms INTEGER NOT NULL, typed TEXT NOT NULL, value REAL NOT NULL,
  origin TEXT NOT NULL, client_ms INTEGER, received_ms INTEGER NOT NULL, skewed INTEGER NOT NULL
) STRICT;
CREATE INDEX readings_test ON readings(test_id, at_ms);
CREATE INDEX readings_channel ON readings(channel_id);
CREATE TABLE strikes (
  id TEXT PRIMARY KEY NOT NULL, reading_id TEXT NOT NULL UNIQUE REFERENCES readings(id),
  reason TEXT NOT NULL, superseded_by TEXT REFERENCES readings(id), at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX strikes_superseded ON strikes(superseded_by);
CREATE TABLE events (
  id TEXT PRIMARY KEY NOT NULL, test_id TEXT NOT NULL REFERENCES tests(id),
  kind TEXT NOT NULL, note TEXT NOT NULL, at_ms INTEGER NOT NULL, client_ms INTEGER, received_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX events_test ON events(test_id);
-- The technician's own word on when the clock starts.
CREATE TABLE clock_starts (
  id TEXT PRIMARY KEY NOT NULL, test_id TEXT NOT NULL REFERENCES tests(id),
  at_ms INTEGER NOT NULL, reason TEXT NOT NULL, received_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX clock_starts_test ON clock_starts(test_id);
CREATE TABLE verdicts (
  id TEXT PRIMARY KEY NOT NULL, test_id TEXT NOT NULL REFERENCES tests(id), engine TEXT NOT NULL,
  json TEXT NOT NULL, at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX verdicts_test ON verdicts(test_id);
CREATE TABLE test_ends (
  test_id TEXT PRIMARY KEY NOT NULL REFERENCES tests(id), verdict_id TEXT NOT NULL REFERENCES verdicts(id), at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX test_ends_verdict ON test_ends(verdict_id);
CREATE TABLE steps (
  id TEXT PRIMARY KEY NOT NULL, circuit_id TEXT NOT NULL REFERENCES circuits(id),
  step TEXT NOT NULL, note TEXT NOT NULL, at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX steps_circuit ON steps(circuit_id);
CREATE TABLE overrides (
  id TEXT PRIMARY KEY NOT NULL, circuit_id TEXT NOT NULL REFERENCES circuits(id),
  gate TEXT NOT NULL, preset TEXT NOT NULL, words TEXT NOT NULL, at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX overrides_circuit ON overrides(circuit_id);
CREATE TABLE signatures (
  id TEXT PRIMARY KEY NOT NULL, circuit_id TEXT NOT NULL UNIQUE REFERENCES circuits(id),
  name TEXT NOT NULL, role TEXT NOT NULL, statement TEXT NOT NULL, state TEXT NOT NULL,
  gates TEXT NOT NULL, digest TEXT NOT NULL, at_ms INTEGER NOT NULL
) STRICT;

-- Evidence is added, never changed.
CREATE TRIGGER readings_keep BEFORE UPDATE ON readings BEGIN SELECT RAISE(ABORT, 'readings are insert-only'); END;
CREATE TRIGGER readings_stay BEFORE DELETE ON readings BEGIN SELECT RAISE(ABORT, 'readings are insert-only'); END;
CREATE TRIGGER strikes_keep BEFORE UPDATE ON strikes BEGIN SELECT RAISE(ABORT, 'strikes are insert-only'); END;
CREATE TRIGGER strikes_stay BEFORE DELETE ON strikes BEGIN SELECT RAISE(ABORT, 'strikes are insert-only'); END;
CREATE TRIGGER events_keep BEFORE UPDATE ON events BEGIN SELECT RAISE(ABORT, 'events are insert-only'); END;
CREATE TRIGGER events_stay BEFORE DELETE ON events BEGIN SELECT RAISE(ABORT, 'events are insert-only'); END;
CREATE TRIGGER verdicts_keep BEFORE UPDATE ON verdicts BEGIN SELECT RAISE(ABORT, 'verdicts are insert-only'); END;
CREATE TRIGGER verdicts_stay BEFORE DELETE ON verdicts BEGIN SELECT RAISE(ABORT, 'verdicts are insert-only'); END;
CREATE TRIGGER overrides_keep BEFORE UPDATE ON overrides BEGIN SELECT RAISE(ABORT, 'overrides are insert-only'); END;
CREATE TRIGGER overrides_stay BEFORE DELETE ON overrides BEGIN SELECT RAISE(ABORT, 'overrides are insert-only'); END;
CREATE TRIGGER signatures_keep BEFORE UPDATE ON signatures BEGIN SELECT RAISE(ABORT, 'signatures are insert-only'); END;
CREATE TRIGGER signatures_stay BEFORE DELETE ON signatures BEGIN SELECT RAISE(ABORT, 'signatures are insert-only'); END;

CREATE TRIGGER surveys_keep BEFORE UPDATE ON surveys BEGIN SELECT RAISE(ABORT, 'surveys are insert-only'); END;
CREATE TRIGGER surveys_stay BEFORE DELETE ON surveys BEGIN SELECT RAISE(ABORT, 'surveys are insert-only'); END;
CREATE TRIGGER photos_keep BEFORE UPDATE ON photos BEGIN SELECT RAISE(ABORT, 'photos are insert-only'); END;
CREATE TRIGGER photos_stay BEFORE DELETE ON photos BEGIN SELECT RAISE(ABORT, 'photos are insert-only'); END;
CREATE TRIGGER looks_keep BEFORE UPDATE ON looks BEGIN SELECT RAISE(ABORT, 'looks are insert-only'); END;
CREATE TRIGGER looks_stay BEFORE DELETE ON looks BEGIN SELECT RAISE(ABORT, 'looks are insert-only'); END;
CREATE TRIGGER repairs_keep BEFORE UPDATE ON repairs BEGIN SELECT RAISE(ABORT, 'repairs are insert-only'); END;
CREATE TRIGGER repairs_stay BEFORE DELETE ON repairs BEGIN SELECT RAISE(ABORT, 'repairs are insert-only'); END;
CREATE TRIGGER procedures_keep BEFORE UPDATE ON procedures BEGIN SELECT RAISE(ABORT, 'procedures are insert-only'); END;
CREATE TRIGGER procedures_stay BEFORE DELETE ON procedures BEGIN SELECT RAISE(ABORT, 'procedures are insert-only'); END;
CREATE TRIGGER kit_keep BEFORE UPDATE ON kit BEGIN SELECT RAISE(ABORT, 'kit is insert-only'); END;
CREATE TRIGGER kit_stay BEFORE DELETE ON kit BEGIN SELECT RAISE(ABORT, 'kit is insert-only'); END;
CREATE TRIGGER steps_keep BEFORE UPDATE ON steps BEGIN SELECT RAISE(ABORT, 'steps are insert-only'); END;
CREATE TRIGGER steps_stay BEFORE DELETE ON steps BEGIN SELECT RAISE(ABORT, 'steps are insert-only'); END;

-- A signed circuit is read-only, whoever asks.
CREATE TRIGGER signed_tests BEFORE INSERT ON tests WHEN EXISTS (SELECT 1 FROM signatures WHERE circuit_id = NEW.circuit_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_steps BEFORE INSERT ON steps WHEN EXISTS (SELECT 1 FROM signatures WHERE circuit_id = NEW.circuit_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_surveys BEFORE INSERT ON surveys WHEN EXISTS (SELECT 1 FROM signatures WHERE circuit_id = NEW.circuit_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_photos BEFORE INSERT ON photos WHEN EXISTS (SELECT 1 FROM signatures WHERE circuit_id = NEW.circuit_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_looks BEFORE INSERT ON looks WHEN EXISTS (SELECT 1 FROM signatures WHERE circuit_id = NEW.circuit_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_repairs BEFORE INSERT ON repairs WHEN EXISTS (SELECT 1 FROM signatures WHERE circuit_id = NEW.circuit_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_overrides BEFORE INSERT ON overrides WHEN EXISTS (SELECT 1 FROM signatures WHERE circuit_id = NEW.circuit_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_readings BEFORE INSERT ON readings
  WHEN EXISTS (SELECT 1 FROM signatures s JOIN tests t ON t.circuit_id = s.circuit_id WHERE t.id = NEW.test_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_events BEFORE INSERT ON events
  WHEN EXISTS (SELECT 1 FROM signatures s JOIN tests t ON t.circuit_id = s.circuit_id WHERE t.id = NEW.test_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_strikes BEFORE INSERT ON strikes
  WHEN EXISTS (SELECT 1 FROM signatures s JOIN tests t ON t.circuit_id = s.circuit_id JOIN readings r ON r.test_id = t.id WHERE r.id = NEW.reading_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
CREATE TRIGGER signed_clock BEFORE INSERT ON clock_starts
  WHEN EXISTS (SELECT 1 FROM signatures s JOIN tests t ON t.circuit_id = s.circuit_id WHERE t.id = NEW.test_id)
  BEGIN SELECT RAISE(ABORT, 'circuit is signed'); END;
-- An ended test takes no more readings.
CREATE TRIGGER ended_readings BEFORE INSERT ON readings WHEN EXISTS (SELECT 1 FROM test_ends WHERE test_id = NEW.test_id)
  BEGIN SELECT RAISE(ABORT, 'test has ended'); END;
