-- The station at which a cause is named and a remedy chosen is “decide”, as it says on the screen. It
-- follows from what happened to a job, so no check of its words is needed here.
ALTER TABLE job ADD COLUMN next_station TEXT NOT NULL DEFAULT 'prove';
UPDATE job SET next_station = CASE station WHEN 'work' THEN 'decide' ELSE station END;
DROP INDEX job_by_station;
ALTER TABLE job DROP COLUMN station;
ALTER TABLE job RENAME COLUMN next_station TO station;
CREATE INDEX job_by_station ON job (station, opened_at);
