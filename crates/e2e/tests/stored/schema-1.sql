-- A database as the first Nimbet kept it, with one migration: a chest brought in open, sealed by the plan and moved; the move undone.
-- Jobs, their steps, tasks, releases, and content-addressed blobs.

CREATE TABLE jobs (
    id          BINARY(16)   NOT NULL PRIMARY KEY,
    name        VARCHAR(200) NOT NULL,
    revision    BIGINT       NOT NULL DEFAULT 1,
    -- How many of the steps in line are in force; those after are undone.
    cursor_at   INT          NOT NULL DEFAULT 0,
    next_number INT          NOT NULL DEFAULT 1,
    created_at  DATETIME(3)  NOT NULL DEFAULT UTC_TIMESTAMP(3)
);

CREATE TABLE steps (
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

CREATE TABLE blobs (
    hash   BINARY(32) NOT NULL PRIMARY KEY,
    bytes  BIGINT     NOT NULL,
    chunks INT        NOT NULL
);

CREATE TABLE blob_chunks (
    hash  BINARY(32)  NOT NULL,
    chunk INT         NOT NULL,
    -- zstd of at most 1 MiB.
    data  MEDIUMBLOB  NOT NULL,
    PRIMARY KEY (hash, chunk)
);

-- What is known of a mesh, by content and kernel version; made anew when it is not there.
CREATE TABLE examinations (
    cache_key BINARY(32) NOT NULL PRIMARY KEY,
    body      LONGBLOB   NOT NULL
);

-- Results of steps by kind, parameters, input and kernel version: makes Apply after a forecast instant.
CREATE TABLE results (
    cache_key BINARY(32) NOT NULL PRIMARY KEY,
    mesh      BINARY(32) NOT NULL,
    report    LONGTEXT   NOT NULL
);

CREATE TABLE tasks (
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

CREATE TABLE releases (
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
CREATE TABLE `_sqlx_migrations` (version BIGINT PRIMARY KEY, description TEXT NOT NULL, installed_on TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,
 success BOOLEAN NOT NULL, checksum BLOB NOT NULL, execution_time BIGINT NOT NULL);
INSERT INTO `_sqlx_migrations` VALUES (1,'first','2026-11-28 12:15:47',1,0xB46D0DA9F9D0ACB585629E36748800ED99A4522C7D3A38D1A808C01F9D2AE9717AF7C297B3BA44816BA1B3E87F63F2E5,42854930);
INSERT INTO jobs (id, name, revision, cursor_at, next_number) VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5, 'Harbour chest', 5, 2, 4);
INSERT INTO steps (job_id, number, place, part, action, mesh, report) VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5, 1, 0, 1, '{\"kind\":\"bring_in\",\"file\":\"Open chest.off\",\"source\":\"0eb2c6f45855d2ba115986350386d0257eb174132a34e421c61fdd54eece8146\",\"unit\":\"millimetre\"}', 0xF400B1E81E8EEE9B36C67587BD7F97D0253D3102B3FD50D23DB9703FC5A67F50, '{\"done\":[\"read as OFF in mm\"],\"left\":[],\"largest_move\":0.0,\"before\":null,\"after\":{\"state\":\"open\",\"reason\":\"open: 1 rim, 60 mm\",\"no_volume\":\"no volume: open: 1 rim, 60 mm\",\"volume\":null,\"area\":500.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":10,\"points\":8,\"faces\":5,\"shells\":1,\"naked_edges\":4,\"naked_length\":60.0,\"rims\":1,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0},\"change\":null}');
INSERT INTO steps (job_id, number, place, part, action, mesh, report) VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5, 2, 1, 1, '{\"kind\":\"seal.plan\"}', 0x492BDD1502B9448EDD230EE34FAA232236DA1DD8278AFCED45B0079F6B4C07D9, '{\"done\":[\"Cover all rims flat: covered R1 with 2 triangles\"],\"left\":[],\"largest_move\":0.0,\"before\":{\"state\":\"open\",\"reason\":\"open: 1 rim, 60 mm\",\"no_volume\":\"no volume: open: 1 rim, 60 mm\",\"volume\":null,\"area\":500.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":10,\"points\":8,\"faces\":5,\"shells\":1,\"naked_edges\":4,\"naked_length\":60.0,\"rims\":1,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0},\"after\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"change\":{\"triangles_added\":2,\"triangles_removed\":0,\"away\":5.0,\"back\":0.0},\"plan\":[{\"stage\":\"cover_flat\",\"title\":\"Cover all rims flat\",\"done\":[\"covered R1 with 2 triangles\"],\"left_out\":null,\"after\":\"sealed\"}],\"harm\":{\"distance\":0.0229128784747792,\"lost\":{\"area\":0.0,\"share\":0.0,\"places\":[]},\"swallowed\":{\"area\":0.0,\"share\":0.0,\"places\":[]},\"invented\":{\"area\":200.0,\"share\":0.2857142857142857,\"places\":[{\"centre\":[10.0,5.0,5.0],\"radius\":11.180339887498949,\"area\":200.0}]}},\"seconds\":0.370039738}');
INSERT INTO steps (job_id, number, place, part, action, mesh, report) VALUES (0x01A2221541CB72AC97D4A03A0C9A15F5, 3, 2, 1, '{\"kind\":\"shape.place\",\"by\":[0.0,0.0,30.0]}', 0x30118D0F8EE2E6605B7513BCF066885B9F0A31CC5424A7B91D3B391444BD00AD, '{\"done\":[\"moved by 30 mm\"],\"left\":[],\"largest_move\":30.0,\"before\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,0.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"after\":{\"state\":\"sealed\",\"reason\":\"sealed\",\"no_volume\":null,\"volume\":1000.0,\"area\":700.0,\"size\":[20.0,10.0,5.0],\"least\":[0.0,0.0,30.0],\"triangles\":12,\"points\":8,\"faces\":6,\"shells\":1,\"naked_edges\":0,\"naked_length\":-0.0,\"rims\":0,\"gaps\":0,\"crowded_edges\":0,\"clashing_edges\":0,\"touch_points\":0,\"inside_out_shells\":0,\"crossing_pairs\":0,\"crossing_in_gaps\":0,\"tangles\":0,\"duplicates\":0,\"degenerate\":0,\"least_wall\":5.0},\"change\":{\"triangles_added\":12,\"triangles_removed\":12,\"away\":30.0,\"back\":30.0},\"seconds\":0.339454677}');
INSERT INTO blobs VALUES (0x0EB2C6F45855D2BA115986350386D0257EB174132A34E421C61FDD54EECE8146, 116, 1);
INSERT INTO blobs VALUES (0x30118D0F8EE2E6605B7513BCF066885B9F0A31CC5424A7B91D3B391444BD00AD, 400, 1);
INSERT INTO blobs VALUES (0x492BDD1502B9448EDD230EE34FAA232236DA1DD8278AFCED45B0079F6B4C07D9, 400, 1);
INSERT INTO blobs VALUES (0xF400B1E81E8EEE9B36C67587BD7F97D0253D3102B3FD50D23DB9703FC5A67F50, 368, 1);
INSERT INTO blob_chunks VALUES (0x0EB2C6F45855D2BA115986350386D0257EB174132A34E421C61FDD54EECE8146,0,0x28B52FFD2074050200D2840B0EB0A5399C1C60BB91D0D63A9E382313774E7761313D77757896BB5ECBBC93679A7735A52665C639C76B6063040106002015B4F0130F4880B3E1D2CA12);
INSERT INTO blob_chunks VALUES (0x30118D0F8EE2E6605B7513BCF066885B9F0A31CC5424A7B91D3B391444BD00AD,0,0x28B52FFD609000350400A4034E4D4231080000000C003E40003424408041400080418041804103000000020200000001050402000000060602070703000404040600050000002520F002A9AA031B0406041038818F7CEF489CF2FD9363ED97D94059A08107993D645996EF3CB33BBF330B06FABBBD05C77AEA2DA6602A38EEB0112E00F0059271A1188195573B988204);
INSERT INTO blob_chunks VALUES (0x492BDD1502B9448EDD230EE34FAA232236DA1DD8278AFCED45B0079F6B4C07D9,0,0x28B52FFD6090001D040054034E4D4231080000000C00344000244014344014344024401440030000000201050402000000060602070703000404040600050000002720100321E301BB0486041028818FF95E489CE6FB9367ED97D9B05900034F337B926549BE5F666F7E278B07FA8E5AF8F876022F5D323C1063031F2863906D73F28500BEE012D71B7C235990);
INSERT INTO blob_chunks VALUES (0xF400B1E81E8EEE9B36C67587BD7F97D0253D3102B3FD50D23DB9703FC5A67F50,0,0x28B52FFD6070000D040054034E4D4231080000000A003440002440143440143440244014400300000002010504020000000606020707030004040102030400000022004B19D99A6F099973C47E66365416B88147337B22CB12F2FDCCEC25BF9B59C040CB1D68E1826F6502B874A70CF000C0180C0C06828C01D9B672025E0000C00B80C49D6F00DF480224);
