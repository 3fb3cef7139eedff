-- A line is the ledger at one time: a list of editions of steps. Each change makes a new line after the one before it; undo goes
-- back to that, redo to the newest that came after. Nothing is deleted.
ALTER TABLE steps
    ADD COLUMN IF NOT EXISTS edition INT NOT NULL DEFAULT 0,
    -- Where the step stands, as JSON; NULL when it is done.
    ADD COLUMN IF NOT EXISTS state LONGTEXT NULL,
    ADD COLUMN IF NOT EXISTS made_by VARCHAR(100) NULL,
    ADD COLUMN IF NOT EXISTS made_at DATETIME(3) NOT NULL DEFAULT UTC_TIMESTAMP(3);
UPDATE steps SET edition = number;
ALTER TABLE steps DROP PRIMARY KEY, ADD PRIMARY KEY (job_id, edition), ADD KEY IF NOT EXISTS job_id_2 (job_id, number);

CREATE TABLE IF NOT EXISTS ledger_lines (
    job_id    BINARY(16)   NOT NULL,
    version   INT          NOT NULL,
    -- The version it was made from; NULL for the first.
    before_it INT          NULL,
    -- JSON: numbers of editions, in order.
    editions  LONGTEXT     NOT NULL,
    -- How many of the steps are in force; those after are held back.
    cursor_at INT          NOT NULL,
    what      VARCHAR(300) NOT NULL,
    made_by   VARCHAR(100) NULL,
    made_at   DATETIME(3)  NOT NULL DEFAULT UTC_TIMESTAMP(3),
    PRIMARY KEY (job_id, version),
    FOREIGN KEY (job_id) REFERENCES jobs (id)
);
INSERT IGNORE INTO ledger_lines (job_id, version, before_it, editions, cursor_at, what)
    SELECT id, 0, NULL, '[]', 0, 'the beginning' FROM jobs;
INSERT IGNORE INTO ledger_lines (job_id, version, before_it, editions, cursor_at, what)
    SELECT s.job_id, s.place + 1, s.place, CONCAT('[', GROUP_CONCAT(t.edition ORDER BY t.place), ']'), s.place + 1, CONCAT('Step ', s.number)
    FROM steps s JOIN steps t ON t.job_id = s.job_id AND t.place <= s.place
    WHERE s.place IS NOT NULL GROUP BY s.job_id, s.place, s.number;

ALTER TABLE jobs ADD COLUMN IF NOT EXISTS version INT NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS next_edition INT NOT NULL DEFAULT 1;
UPDATE jobs SET version = cursor_at, next_edition = next_number;
ALTER TABLE jobs DROP COLUMN IF EXISTS cursor_at;
ALTER TABLE steps DROP KEY IF EXISTS job_id, DROP COLUMN IF EXISTS place;
