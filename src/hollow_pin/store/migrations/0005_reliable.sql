-- A number for the order of what happens, takes that are still being brought in, readings that could
-- not be made, photos by what is in them, requests that were carried out, backups, devices that paired.
PRAGMA application_id = 0x48504e31;

CREATE TABLE counter (                     -- one row: how much has happened, whatever the clock said
  happened INTEGER NOT NULL
) STRICT;

CREATE TABLE take_new (
  id INTEGER PRIMARY KEY,
  seq INTEGER NOT NULL,                    -- its place among takes, work and studies
  job_id INTEGER NOT NULL REFERENCES job (id),
  stick TEXT NOT NULL,
  stage TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('importing', 'recording', 'complete', 'interrupted')),
  ending TEXT CHECK (ending IN ('complete', 'interrupted')), -- how it ended, until it is measured
  ended_because TEXT,
  usable INTEGER NOT NULL DEFAULT 0,       -- whether any step of it could be measured
  source_kind TEXT NOT NULL,
  source_name TEXT NOT NULL,
  ranges TEXT NOT NULL,                    -- JSON list of [lo, hi], one an axis
  gate TEXT NOT NULL,
  headers TEXT NOT NULL DEFAULT '{}',      -- JSON object: header lines of the recording file
  routine TEXT NOT NULL DEFAULT '{}',      -- JSON object: what was asked for
  calibration TEXT NOT NULL DEFAULT 'unknown'
    CHECK (calibration IN ('factory', 'recalibrated', 'unknown')),
  power TEXT NOT NULL DEFAULT 'unknown' CHECK (power IN ('cable', 'battery', 'unknown')),
  shell TEXT NOT NULL DEFAULT 'unknown' CHECK (shell IN ('open', 'closed', 'unknown')),
  role TEXT NOT NULL DEFAULT '',           -- bench role
  together TEXT NOT NULL DEFAULT '',       -- takes made in one go share it
  study_id INTEGER REFERENCES study (id),
  file_hash TEXT NOT NULL DEFAULT '',      -- SHA-256 of the file it came from, and of how it was read
  started_at TEXT NOT NULL,
  ended_at TEXT,
  undone_at TEXT                           -- set aside
) STRICT;
INSERT INTO take_new (id, seq, job_id, stick, stage, state, ended_because, usable, source_kind,
  source_name, ranges, gate, headers, routine, calibration, power, shell, role, together, study_id,
  started_at, ended_at, undone_at)
SELECT id, 0, job_id, stick, stage, state, ended_because, usable, source_kind, source_name, ranges, gate,
  headers, routine, calibration, power, shell, role, together, study_id, started_at, ended_at, undone_at
FROM take;
DROP TABLE take;
ALTER TABLE take_new RENAME TO take;
ALTER TABLE work ADD COLUMN seq INTEGER NOT NULL DEFAULT 0;
ALTER TABLE study ADD COLUMN seq INTEGER NOT NULL DEFAULT 0;      -- when it was opened
ALTER TABLE study ADD COLUMN completed_seq INTEGER;

CREATE TEMP TABLE order_of AS
SELECT what, id, row_number() OVER (ORDER BY at, what, id) AS seq FROM (
  SELECT 'study' AS what, id, opened_at AS at FROM study
  UNION ALL SELECT 'study-end', id, completed_at FROM study WHERE completed_at IS NOT NULL
  UNION ALL SELECT 'take', id, started_at FROM take
  UNION ALL SELECT 'work', id, done_at FROM work);
CREATE INDEX temp.order_by_what ON order_of (what, id);
UPDATE take SET seq = (SELECT seq FROM order_of WHERE what = 'take' AND order_of.id = take.id);
UPDATE work SET seq = (SELECT seq FROM order_of WHERE what = 'work' AND order_of.id = work.id);
UPDATE study SET seq = (SELECT seq FROM order_of WHERE what = 'study' AND order_of.id = study.id),
  completed_seq = (SELECT seq FROM order_of WHERE what = 'study-end' AND order_of.id = study.id);
INSERT INTO counter SELECT coalesce(max(seq), 0) FROM order_of;
DROP TABLE order_of;

CREATE INDEX take_by_job ON take (job_id, id);
CREATE INDEX take_by_study ON take (study_id) WHERE study_id IS NOT NULL;
CREATE INDEX take_that_counts ON take (job_id, stick, seq)
  WHERE state IN ('complete', 'interrupted') AND undone_at IS NULL;
CREATE INDEX take_unfinished ON take (state) WHERE state IN ('importing', 'recording');
CREATE INDEX take_by_file ON take (file_hash) WHERE file_hash <> '';

CREATE TABLE reading_new (                 -- computed from blocks; thrown away at will
  take_id INTEGER PRIMARY KEY REFERENCES take (id),
  version INTEGER NOT NULL,
  body TEXT,                               -- JSON object; NULL where it could not be measured,
  failed TEXT,                             -- and why
  CHECK ((body IS NULL) <> (failed IS NULL))
) STRICT;
INSERT INTO reading_new (take_id, version, body) SELECT take_id, version, body FROM reading;
DROP TABLE reading;
ALTER TABLE reading_new RENAME TO reading;
CREATE INDEX reading_by_version ON reading (version);

ALTER TABLE photo ADD COLUMN sha256 TEXT NOT NULL DEFAULT '';
UPDATE photo SET sha256 = sha256_of(body);
CREATE INDEX photo_by_sha256 ON photo (sha256);

CREATE TABLE request (                     -- what was carried out by its key, so that it is done once
  key TEXT PRIMARY KEY,
  asked TEXT NOT NULL,                     -- SHA-256 of what was asked
  at TEXT NOT NULL,
  status INTEGER,                          -- NULL where the answer was never sent
  media_type TEXT,
  body BLOB
) STRICT;
CREATE INDEX request_by_time ON request (at);

CREATE TABLE backup (                      -- good copies of this file, as they were made
  id INTEGER PRIMARY KEY,
  at TEXT NOT NULL,
  path TEXT NOT NULL,
  bytes INTEGER NOT NULL
) STRICT;

CREATE TABLE pairing (                     -- a code that was shown, until it is used or too old
  code_hash TEXT PRIMARY KEY,
  role TEXT NOT NULL CHECK (role IN ('bench', 'desk', 'viewer')),
  expires_at TEXT NOT NULL
) STRICT;
CREATE TABLE device (                      -- another machine that may speak to this bench
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  role TEXT NOT NULL CHECK (role IN ('bench', 'desk', 'viewer')),
  token_hash TEXT NOT NULL UNIQUE,
  paired_at TEXT NOT NULL,
  seen_at TEXT NOT NULL,
  revoked_at TEXT
) STRICT;
