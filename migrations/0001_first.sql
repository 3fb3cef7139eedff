-- Jobs, their steps, tasks, releases, and content-addressed blobs.

CREATE TABLE IF NOT EXISTS jobs (
    id          BINARY(16)   NOT NULL PRIMARY KEY,
    name        VARCHAR(200) NOT NULL,
    revision    BIGINT       NOT NULL DEFAULT 1,
    -- How many of the steps in line are in force; those after are undone.
    cursor_at   INT          NOT NULL DEFAULT 0,
    next_number INT          NOT NULL DEFAULT 1,
    created_at  DATETIME(3)  NOT NULL DEFAULT UTC_TIMESTAMP(3)
);

CREATE TABLE IF NOT EXISTS steps (
    job_id BINARY(16) NOT NULL,
    number INT        NOT NULL,
    -- Place in line from 0; NULL once a new step was made in its stead after an undo. Nothing is deleted.
    place  INT        NULL,
    part   INT        NOT NULL,
    action LONGTEXT   NOT NULL,
    mesh   BINARY(32) NOT NULL,
    report LONGTEXT   NOT NULL,
    PRIMARY KEY (job_id, number),
    UNIQUE KEY (job_id, place),
    FOREIGN KEY (job_id) REFERENCES jobs (id)
);

CREATE TABLE IF NOT EXISTS blobs (
    hash   BINARY(32) NOT NULL PRIMARY KEY,
    bytes  BIGINT     NOT NULL,
    chunks INT        NOT NULL
);

CREATE TABLE IF NOT EXISTS blob_chunks (
    hash  BINARY(32)  NOT NULL,
    chunk INT         NOT NULL,
    -- zstd of at most 1 MiB.
    data  MEDIUMBLOB  NOT NULL,
    PRIMARY KEY (hash, chunk)
);

-- What is known of a mesh, by content and kernel version; made anew when it is not there.
CREATE TABLE IF NOT EXISTS examinations (
    cache_key BINARY(32) NOT NULL PRIMARY KEY,
    body      LONGBLOB   NOT NULL
);

-- Results of steps by kind, parameters, input and kernel version: makes Apply after a forecast instant.
CREATE TABLE IF NOT EXISTS results (
    cache_key BINARY(32) NOT NULL PRIMARY KEY,
    mesh      BINARY(32) NOT NULL,
    report    LONGTEXT   NOT NULL
);

CREATE TABLE IF NOT EXISTS tasks (
    id          BIGINT       NOT NULL AUTO_INCREMENT PRIMARY KEY,
    job_id      BINARY(16)   NOT NULL,
    request     LONGTEXT     NOT NULL,
    state       ENUM ('queued', 'running', 'done', 'failed', 'cancelled') NOT NULL DEFAULT 'queued',
    worker      BINARY(16)   NULL,
    lease_until DATETIME(3)  NULL,
    attempts    INT          NOT NULL DEFAULT 0,
    cancel      BOOLEAN      NOT NULL DEFAULT FALSE,
    fraction    DOUBLE       NOT NULL DEFAULT 0,
    doing       VARCHAR(200) NOT NULL DEFAULT 'waiting',
    result      LONGTEXT     NULL,
    problem     LONGTEXT     NULL,
    created_at  DATETIME(3)  NOT NULL DEFAULT UTC_TIMESTAMP(3),
    KEY (state, id),
    FOREIGN KEY (job_id) REFERENCES jobs (id)
);

CREATE TABLE IF NOT EXISTS releases (
    id         BINARY(16)  NOT NULL PRIMARY KEY,
    job_id     BINARY(16)  NOT NULL,
    part       INT         NOT NULL,
    mesh       BINARY(32)  NOT NULL,
    sheet      LONGTEXT    NOT NULL,
    file       BINARY(32)  NOT NULL,
    created_at DATETIME(3) NOT NULL DEFAULT UTC_TIMESTAMP(3),
    KEY (job_id, created_at),
    FOREIGN KEY (job_id) REFERENCES jobs (id)
);
