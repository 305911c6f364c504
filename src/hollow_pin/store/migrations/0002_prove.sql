-- Models with sticks of every kind, takes with how they were made, routines, axis mappings, studies.
CREATE TABLE model_new (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  sticks TEXT NOT NULL,                    -- JSON list: name, axes, sprung, gate, sensors
  bits INTEGER NOT NULL,
  rate_hz REAL NOT NULL,
  lo REAL NOT NULL,
  hi REAL NOT NULL,
  limits TEXT NOT NULL DEFAULT '{}',       -- JSON object: reading, then grade, where not the usual
  note TEXT NOT NULL DEFAULT ''
) STRICT;
INSERT INTO model_new (id, name, sticks, bits, rate_hz, lo, hi, note)
SELECT id, name,
  (SELECT json_group_array(json_object(
     'name', stick.value, 'axes', 2, 'sprung', json('true'), 'gate', model.gate,
     'sensors', json_array(
       json_object('axis', 'x', 'kind', model.sensor, 'side', 'bottom',
                   'ohms', CASE model.sensor WHEN 'potentiometer' THEN 10000 END),
       json_object('axis', 'y', 'kind', model.sensor, 'side', 'right',
                   'ohms', CASE model.sensor WHEN 'potentiometer' THEN 10000 END))))
   FROM json_each(model.sticks) AS stick),
  bits, rate_hz, 0, (1 << bits) - 1, note
FROM model;
INSERT INTO model_new (id, name, sticks, bits, rate_hz, lo, hi, note) VALUES
  ('turnstone', 'Turnstone',
   '[{"name": "paddle", "axes": 1, "sprung": false, "gate": "round", "sensors":
      [{"axis": "x", "kind": "potentiometer", "side": "bottom", "ohms": 100000}]}]',
   8, 60, 0, 255, 'Rotary paddle. One potentiometer, no spring.');
DROP TABLE model;
ALTER TABLE model_new RENAME TO model;

CREATE TABLE study (                       -- a bench check, or a gauge study: nothing is done in between
  id INTEGER PRIMARY KEY,
  model_id TEXT NOT NULL REFERENCES model (id),
  source_kind TEXT NOT NULL,
  source_name TEXT NOT NULL,
  roles TEXT NOT NULL,                     -- JSON list of bench roles
  sticks TEXT NOT NULL,                    -- JSON list: job_id, stick
  trials INTEGER NOT NULL CHECK (trials >= 2),
  routine TEXT NOT NULL,                   -- JSON object
  opened_at TEXT NOT NULL,
  completed_at TEXT,
  result TEXT                              -- JSON object by reading, once complete
) STRICT;
CREATE INDEX study_by_model ON study (model_id, source_kind, source_name, completed_at);

CREATE TABLE take_new (
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  stick TEXT NOT NULL,
  stage TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('recording', 'complete', 'interrupted')),
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
  started_at TEXT NOT NULL,
  ended_at TEXT
) STRICT;
INSERT INTO take_new (id, job_id, stick, stage, state, ended_because, usable, source_kind, source_name,
  ranges, gate, headers, started_at, ended_at)
SELECT id, job_id, stick, stage, state, ended_because, usable, source_kind, source_name,
  ranges, gate, headers, started_at, ended_at FROM take;
DROP TABLE take;
ALTER TABLE take_new RENAME TO take;
CREATE INDEX take_by_job ON take (job_id, id);
CREATE INDEX take_by_study ON take (study_id) WHERE study_id IS NOT NULL;

ALTER TABLE block ADD COLUMN first_us INTEGER; -- NULL in takes made before it was kept
ALTER TABLE block ADD COLUMN last_us INTEGER;

CREATE TABLE routine (                     -- the shop's own; the usual ones are in the program
  id INTEGER PRIMARY KEY,
  body TEXT NOT NULL                       -- JSON object
) STRICT;

CREATE TABLE mapping (                     -- which axes of a source are which stick
  model_id TEXT NOT NULL REFERENCES model (id),
  source_kind TEXT NOT NULL,
  source_name TEXT NOT NULL,
  stick TEXT NOT NULL,
  axis_x INTEGER NOT NULL,
  axis_y INTEGER,
  flip_x INTEGER NOT NULL,
  flip_y INTEGER NOT NULL,
  PRIMARY KEY (model_id, source_kind, source_name, stick)
) STRICT;
