CREATE TABLE model (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  sticks TEXT NOT NULL,                    -- JSON list of stick names
  gate TEXT NOT NULL CHECK (gate IN ('round', 'square')),
  bits INTEGER NOT NULL,
  rate_hz REAL NOT NULL,
  sensor TEXT NOT NULL CHECK (sensor IN ('potentiometer', 'hall')),
  note TEXT NOT NULL DEFAULT ''
) STRICT;

INSERT INTO model (id, name, sticks, gate, bits, rate_hz, sensor, note) VALUES
  ('plover', 'Plover', '["left", "right"]', 'round', 10, 250, 'potentiometer',
   'Twin-stick handset. Soldered 10 kΩ potentiometer modules.'),
  ('dunlin', 'Dunlin', '["stick"]', 'round', 12, 200, 'potentiometer',
   'One-hand wand. One stick on a ribbon with a latch.'),
  ('skua', 'Skua', '["stick"]', 'square', 16, 500, 'hall',
   'Desk stick. Hall sensors, square gate.');

CREATE TABLE controller (
  id INTEGER PRIMARY KEY,
  tag TEXT NOT NULL UNIQUE COLLATE NOCASE,
  model_id TEXT NOT NULL REFERENCES model (id),
  created_at TEXT NOT NULL
) STRICT;

CREATE TABLE job (
  id INTEGER PRIMARY KEY,
  controller_id INTEGER NOT NULL REFERENCES controller (id),
  stick TEXT NOT NULL,
  complaint TEXT NOT NULL,
  station TEXT NOT NULL CHECK (station IN ('prove', 'work', 'verify', 'hand-over', 'closed')),
  outcome TEXT,
  opened_at TEXT NOT NULL,
  closed_at TEXT
) STRICT;
CREATE INDEX job_by_station ON job (station, opened_at);
CREATE UNIQUE INDEX one_open_job ON job (controller_id) WHERE closed_at IS NULL;

CREATE TABLE take (
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  stick TEXT NOT NULL,
  stage TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('recording', 'complete', 'interrupted')),
  ended_because TEXT,
  usable INTEGER NOT NULL DEFAULT 0,       -- whether any step of it could be measured
  source_kind TEXT NOT NULL CHECK (source_kind IN ('stand-in', 'gamepad', 'file')),
  source_name TEXT NOT NULL,
  ranges TEXT NOT NULL,                    -- JSON list of [lo, hi], one an axis
  gate TEXT NOT NULL,
  headers TEXT NOT NULL DEFAULT '{}',      -- JSON object: header lines of the recording file
  started_at TEXT NOT NULL,
  ended_at TEXT
) STRICT;
CREATE INDEX take_by_job ON take (job_id, id);

CREATE TABLE block (
  id INTEGER PRIMARY KEY,
  take_id INTEGER NOT NULL REFERENCES take (id),
  t_us BLOB NOT NULL,                      -- int64, little endian
  raw BLOB NOT NULL,                       -- float64, sample by sample, axis by axis
  step BLOB NOT NULL                       -- int8, -1 between steps
) STRICT;
CREATE INDEX block_by_take ON block (take_id, id);

CREATE TABLE reading (                     -- computed from blocks; thrown away at will
  take_id INTEGER PRIMARY KEY REFERENCES take (id),
  version INTEGER NOT NULL,
  body TEXT NOT NULL
) STRICT;

CREATE TABLE work (
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  stick TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('recalibrated', 'cleaned', 'replaced')),
  module TEXT CHECK (module IN ('potentiometer', 'hall')),
  lot TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT '',
  cautions TEXT NOT NULL DEFAULT '[]',     -- JSON list of the cautions acknowledged
  done_at TEXT NOT NULL,
  CHECK ((kind = 'replaced') = (module IS NOT NULL))
) STRICT;
CREATE INDEX work_by_job ON work (job_id, id);

CREATE TABLE ledger (
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  at TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('take-in', 'take', 'work', 'caution', 'note', 'close')),
  text TEXT NOT NULL,
  take_id INTEGER REFERENCES take (id),
  work_id INTEGER REFERENCES work (id)
) STRICT;
CREATE INDEX ledger_by_job ON ledger (job_id, id);

CREATE TABLE stand_in (                    -- the hidden state of simulated sticks
  controller_id INTEGER NOT NULL REFERENCES controller (id),
  stick TEXT NOT NULL,
  state TEXT NOT NULL,
  PRIMARY KEY (controller_id, stick)
) STRICT;
