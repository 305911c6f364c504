-- What is asked when a controller comes, photos, function checks, a ledger that can be corrected,
-- and finding jobs again.
ALTER TABLE model ADD COLUMN sheet TEXT NOT NULL DEFAULT '{}'; -- JSON object: buttons, triggers, …

ALTER TABLE controller ADD COLUMN refer INTEGER NOT NULL DEFAULT 0; -- moves people, vehicles, …

CREATE TABLE job_new (
  id INTEGER PRIMARY KEY,
  controller_id INTEGER NOT NULL REFERENCES controller (id),
  stick TEXT NOT NULL,
  complaint TEXT NOT NULL,
  intake TEXT NOT NULL DEFAULT '{}',       -- JSON object: what was asked at take-in
  moves TEXT NOT NULL DEFAULT '' CHECK (moves IN ('', 'no', 'yes')),
  waiting TEXT NOT NULL DEFAULT '' CHECK (waiting IN ('', 'part', 'owner', 'second-person', 'other')),
  revision INTEGER NOT NULL DEFAULT 1,     -- counts the changes of what was asked at take-in
  station TEXT NOT NULL CHECK (station IN ('prove', 'work', 'verify', 'hand-over', 'closed')),
  ended TEXT CHECK (ended IN ('signed-off', 'as-it-was', 'referred', 'withdrawn', 'unsaid')),
  outcome TEXT,
  opened_at TEXT NOT NULL,
  closed_at TEXT,
  CHECK ((ended IS NULL) = (closed_at IS NULL)),
  CHECK (ended IS NOT 'signed-off' OR moves = 'no')
) STRICT;
INSERT INTO job_new (id, controller_id, stick, complaint, station, ended, outcome, opened_at, closed_at)
SELECT id, controller_id, stick, complaint, station,
  CASE WHEN closed_at IS NOT NULL THEN 'unsaid' END, outcome, opened_at, closed_at FROM job;
DROP TABLE job;
ALTER TABLE job_new RENAME TO job;
CREATE INDEX job_by_station ON job (station, opened_at);
CREATE INDEX job_by_opening ON job (opened_at);
CREATE INDEX job_by_closing ON job (closed_at);
CREATE INDEX job_by_waiting ON job (waiting) WHERE waiting <> '';
CREATE INDEX job_of_controller ON job (controller_id, opened_at);
CREATE UNIQUE INDEX one_open_job ON job (controller_id) WHERE closed_at IS NULL;

-- What moves people, vehicles, lifting gear or medical equipment is referred, and stays so.
CREATE TRIGGER refer_by_new_job AFTER INSERT ON job WHEN NEW.moves = 'yes'
BEGIN UPDATE controller SET refer = 1 WHERE id = NEW.controller_id; END;
CREATE TRIGGER refer_by_answer AFTER UPDATE ON job WHEN NEW.moves = 'yes'
BEGIN UPDATE controller SET refer = 1 WHERE id = NEW.controller_id; END;
CREATE TRIGGER refer_stays BEFORE UPDATE ON controller WHEN OLD.refer AND NOT NEW.refer
BEGIN SELECT RAISE(ABORT, 'a controller that is referred stays referred'); END;
CREATE TRIGGER refer_is_not_signed_off BEFORE UPDATE ON job
WHEN NEW.ended = 'signed-off' AND (SELECT refer FROM controller WHERE id = NEW.controller_id)
BEGIN SELECT RAISE(ABORT, 'a controller that is referred is not signed off'); END;
CREATE TRIGGER refer_comes_not_signed_off BEFORE INSERT ON job
WHEN NEW.ended = 'signed-off' AND (SELECT refer FROM controller WHERE id = NEW.controller_id)
BEGIN SELECT RAISE(ABORT, 'a controller that is referred is not signed off'); END;

ALTER TABLE take ADD COLUMN undone_at TEXT;  -- set aside
ALTER TABLE work ADD COLUMN undone_at TEXT;
ALTER TABLE work ADD COLUMN stand_in_before TEXT; -- JSON: the simulated stick before it was done
CREATE INDEX take_that_counts ON take (job_id, stick, started_at)
  WHERE state <> 'recording' AND undone_at IS NULL;

CREATE TABLE photo (
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  caption TEXT NOT NULL DEFAULT '',
  width INTEGER NOT NULL,
  height INTEGER NOT NULL,
  body BLOB NOT NULL,                      -- JPEG, made here
  thumb BLOB NOT NULL,
  taken_at TEXT NOT NULL,
  undone_at TEXT
) STRICT;
CREATE INDEX photo_by_job ON photo (job_id, id);

CREATE TABLE function_check (              -- all the rest of the controller
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  kind TEXT NOT NULL CHECK (kind IN ('take-in', 'final')),
  source_kind TEXT NOT NULL,
  source_name TEXT NOT NULL,
  buttons INTEGER NOT NULL,
  triggers TEXT NOT NULL,                  -- JSON list of axes
  answers TEXT NOT NULL DEFAULT '{}',      -- JSON object: by what was asked
  started_at TEXT NOT NULL,
  ended_at TEXT,
  ended_because TEXT,
  result TEXT,                             -- JSON object, once ended
  undone_at TEXT
) STRICT;
CREATE INDEX function_check_by_job ON function_check (job_id, id);
CREATE TABLE control_event (               -- in the order they came
  id INTEGER PRIMARY KEY,
  check_id INTEGER NOT NULL REFERENCES function_check (id),
  body TEXT NOT NULL                       -- JSON list of [ms, button or axis, index, value]
) STRICT;
CREATE INDEX control_event_by_check ON control_event (check_id, id);
CREATE TABLE stand_in_contacts (           -- the hidden state of a simulated controller's buttons
  controller_id INTEGER PRIMARY KEY REFERENCES controller (id),
  state TEXT NOT NULL
) STRICT;

CREATE TABLE ledger_new (
  id INTEGER PRIMARY KEY,
  job_id INTEGER NOT NULL REFERENCES job (id),
  at TEXT NOT NULL,
  role TEXT NOT NULL DEFAULT '',           -- bench role
  kind TEXT NOT NULL CHECK (kind IN ('take-in', 'check', 'take', 'work', 'caution', 'note', 'owner',
    'part', 'waiting', 'photo', 'close')),
  text TEXT NOT NULL,
  revision INTEGER NOT NULL DEFAULT 1,
  undone_at TEXT,
  take_id INTEGER REFERENCES take (id),
  work_id INTEGER REFERENCES work (id),
  photo_id INTEGER REFERENCES photo (id),
  check_id INTEGER REFERENCES function_check (id)
) STRICT;
INSERT INTO ledger_new (id, job_id, at, kind, text, take_id, work_id)
SELECT id, job_id, at, kind, text, take_id, work_id FROM ledger;
DROP TABLE ledger;
ALTER TABLE ledger_new RENAME TO ledger;
CREATE INDEX ledger_by_job ON ledger (job_id, id);
CREATE TABLE wording (                     -- how a ledger entry read before it was corrected
  entry_id INTEGER NOT NULL REFERENCES ledger (id),
  revision INTEGER NOT NULL,
  text TEXT NOT NULL,
  until TEXT NOT NULL,
  role TEXT NOT NULL,                      -- of who corrected it
  PRIMARY KEY (entry_id, revision)
) STRICT;

CREATE VIRTUAL TABLE job_text USING fts5 (tag, model, complaint, words, tokenize = 'trigram');
INSERT INTO job_text (rowid, tag, model, complaint, words)
SELECT job.id, controller.tag, model.name, job.complaint,
  coalesce((SELECT group_concat(text, char(10)) FROM ledger WHERE job_id = job.id), '')
FROM job JOIN controller ON controller.id = job.controller_id
JOIN model ON model.id = controller.model_id;

UPDATE model SET sheet = CASE id
  WHEN 'plover' THEN '{"buttons": 17, "triggers": 2, "vibration": true, "clicks": {"left": 11, "right": 12}, "items": ["Charges from the cable", "The port holds the plug", "Sound in both ears"]}'
  WHEN 'dunlin' THEN '{"buttons": 5, "triggers": 1, "vibration": true, "clicks": {"stick": 5}, "items": ["Charges from the cable", "Battery door holds"]}'
  WHEN 'skua' THEN '{"buttons": 9, "triggers": 0, "vibration": false, "clicks": {}, "items": ["The port holds the plug", "Feet grip the table"]}'
  WHEN 'turnstone' THEN '{"buttons": 1, "triggers": 0, "vibration": false, "clicks": {}, "items": ["The port holds the plug"]}'
  ELSE '{}' END;
