-- +goose Up
-- The spine for every material: runs of any way with their stages, one life of
-- a copy, documents of anything, readings of anything, the shop's address book.

-- Documents: a kind of thing that is drafted, agreed and kept in versions. It
-- belongs to a piece, to a look, or to the shop under a name.
CREATE TABLE document (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(16) NOT NULL,
  piece_id BIGINT UNSIGNED NULL,
  look_id BIGINT UNSIGNED NULL,
  name VARCHAR(80) NULL,
  UNIQUE KEY document_of_piece (piece_id, kind),
  UNIQUE KEY document_of_look (look_id, kind),
  UNIQUE KEY document_of_shop (name, kind),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (look_id) REFERENCES look(id),
  CHECK (kind <> '' AND (piece_id IS NOT NULL) + (look_id IS NOT NULL) + (name IS NOT NULL) = 1)
);
INSERT INTO document (kind, piece_id)
  SELECT u.kind, u.piece_id FROM (SELECT kind, piece_id FROM document_version UNION SELECT kind, piece_id FROM draft) u ORDER BY u.piece_id, u.kind;

ALTER TABLE document_version ADD COLUMN document_id BIGINT UNSIGNED NULL AFTER id;
UPDATE document_version v JOIN document d ON d.piece_id = v.piece_id AND d.kind = v.kind SET v.document_id = d.id;
ALTER TABLE document_version DROP FOREIGN KEY document_version_ibfk_1;
ALTER TABLE document_version MODIFY document_id BIGINT UNSIGNED NOT NULL, DROP INDEX document_version_once, DROP COLUMN piece_id, DROP COLUMN kind,
  ADD UNIQUE KEY document_version_once (document_id, number), ADD CONSTRAINT document_version_of FOREIGN KEY (document_id) REFERENCES document(id);

ALTER TABLE draft_step DROP FOREIGN KEY draft_step_of;
ALTER TABLE draft ADD COLUMN document_id BIGINT UNSIGNED NULL FIRST;
ALTER TABLE draft_step ADD COLUMN document_id BIGINT UNSIGNED NULL FIRST;
UPDATE draft t JOIN document d ON d.piece_id = t.piece_id AND d.kind = t.kind SET t.document_id = d.id;
UPDATE draft_step t JOIN document d ON d.piece_id = t.piece_id AND d.kind = t.kind SET t.document_id = d.id;
ALTER TABLE draft DROP FOREIGN KEY draft_ibfk_1;
ALTER TABLE draft MODIFY document_id BIGINT UNSIGNED NOT NULL, DROP PRIMARY KEY, DROP COLUMN piece_id, DROP COLUMN kind,
  ADD COLUMN stamp BIGINT UNSIGNED NOT NULL DEFAULT 0, ADD INDEX draft_person (person_id, stamp),
  ADD PRIMARY KEY (document_id, person_id), ADD CONSTRAINT draft_of FOREIGN KEY (document_id) REFERENCES document(id);
ALTER TABLE draft_step DROP INDEX draft_step_at;
ALTER TABLE draft_step MODIFY document_id BIGINT UNSIGNED NOT NULL, DROP PRIMARY KEY, DROP COLUMN piece_id, DROP COLUMN kind,
  ADD PRIMARY KEY (document_id, person_id, step), ADD INDEX draft_step_at (document_id, at),
  ADD CONSTRAINT draft_step_of FOREIGN KEY (document_id, person_id) REFERENCES draft(document_id, person_id) ON DELETE CASCADE;

-- A run is one session that makes copies, in any way: its stages in order, and
-- the mixes that went in by their role. What waits after a stage is its pot.
ALTER TABLE run
  ADD COLUMN way ENUM('cast','coats','slush','foam','melt','modelled','found') NOT NULL DEFAULT 'cast' AFTER piece_id,
  ADD COLUMN section_number INT UNSIGNED NULL AFTER way,
  ADD COLUMN place VARCHAR(80) NOT NULL DEFAULT '',
  ADD COLUMN ended_at DATETIME(6) NULL,
  ADD COLUMN idem_key CHAR(36) NULL UNIQUE,
  ADD INDEX run_open (ended_at, piece_id);

CREATE TABLE run_mix (
  run_id BIGINT UNSIGNED NOT NULL,
  mix_id BIGINT UNSIGNED NOT NULL,
  role VARCHAR(40) NOT NULL,
  PRIMARY KEY (run_id, mix_id),
  INDEX run_mix_back (mix_id, run_id),
  FOREIGN KEY (run_id) REFERENCES run(id),
  FOREIGN KEY (mix_id) REFERENCES mix(id),
  CHECK (role <> '')
);
INSERT INTO run_mix (run_id, mix_id, role) SELECT id, mix_id, 'body' FROM run;
UPDATE run r JOIN mix m ON m.id = r.mix_id SET r.section_number = m.section_number;
ALTER TABLE run DROP FOREIGN KEY run_ibfk_2;
ALTER TABLE run DROP INDEX mix_id, DROP COLUMN mix_id;

CREATE TABLE run_stage (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  run_id BIGINT UNSIGNED NOT NULL,
  seq SMALLINT UNSIGNED NOT NULL,
  plan JSON NOT NULL,
  place VARCHAR(80) NOT NULL DEFAULT '',
  note VARCHAR(300) NOT NULL DEFAULT '',
  done_at DATETIME(6) NULL,
  done_by BIGINT UNSIGNED NULL,
  UNIQUE KEY run_stage_once (run_id, seq),
  FOREIGN KEY (run_id) REFERENCES run(id),
  FOREIGN KEY (done_by) REFERENCES person(id),
  CHECK ((done_at IS NULL) = (done_by IS NULL))
);
ALTER TABLE pot
  MODIFY kind ENUM('cure','dry','mould','set') NOT NULL,
  ADD COLUMN stage_id BIGINT UNSIGNED NULL,
  ADD CONSTRAINT pot_stage FOREIGN KEY (stage_id) REFERENCES run_stage(id);
-- What a stage took straight from a lot, without a mix.
ALTER TABLE movement
  MODIFY reason ENUM('received','weighed','counted','discarded','used') NOT NULL,
  ADD COLUMN stage_id BIGINT UNSIGNED NULL,
  ADD CONSTRAINT movement_stage FOREIGN KEY (stage_id) REFERENCES run_stage(id);

-- One life of a copy. What used to be said in silicone is said for all.
ALTER TABLE copy MODIFY state ENUM('curing','demoulded','making','made','repair','accepted','scrapped','packed','handed_over') NOT NULL DEFAULT 'curing';
UPDATE copy SET state = IF(state = 'curing', 'making', 'made') WHERE state IN ('curing','demoulded');
ALTER TABLE copy
  MODIFY state ENUM('making','made','repair','accepted','scrapped','packed','handed_over') NOT NULL DEFAULT 'making',
  ADD COLUMN section_number INT UNSIGNED NULL AFTER run_id;
UPDATE copy c JOIN run r ON r.id = c.run_id SET c.section_number = r.section_number;

-- Older pours: their one stage, and the pots that stand after it.
INSERT INTO run_stage (run_id, seq, plan, done_at, done_by)
  SELECT id, 1, JSON_OBJECT('act', 'pour', 'text', 'Poured into the mould.', 'layer', 'body', 'waits', 'cure', 'wait_s', 0, 'ends', TRUE), started_at, person_id FROM run;
UPDATE pot p JOIN copy c ON c.id = p.copy_id JOIN run_stage s ON s.run_id = c.run_id SET p.stage_id = s.id;

-- Older coats of latex stood as pots without a run. Each piece gets one run
-- with its coats as stages, and a copy that is being made while one still dries.
INSERT INTO run (code, piece_id, way, section_number, started_at, person_id, ended_at)
  SELECT CONCAT('R-', LPAD(u.n, GREATEST(4, LENGTH(u.n)), '0')), u.piece_id, 'coats', u.section_number, u.began, u.who, u.ended FROM (
    SELECT p.piece_id, MIN(p.started_at) AS began, IF(SUM(p.ended_at IS NULL) > 0, NULL, MAX(p.ended_at)) AS ended,
      COALESCE((SELECT value FROM counter WHERE name = 'run'), 0) + ROW_NUMBER() OVER (ORDER BY MIN(p.started_at), p.piece_id) AS n,
      (SELECT MAX(v.number) FROM document_version v JOIN document d ON d.id = v.document_id WHERE d.piece_id = p.piece_id AND d.kind = 'section') AS section_number,
      COALESCE((SELECT j.person_id FROM journal j WHERE j.piece_id = p.piece_id AND j.act = 'coat put on' AND j.person_id IS NOT NULL ORDER BY j.id LIMIT 1), (SELECT MIN(id) FROM person)) AS who
    FROM pot p WHERE p.stage_id IS NULL AND p.copy_id IS NULL AND p.mould_id IS NULL AND p.kind = 'dry' GROUP BY p.piece_id) u;
INSERT INTO counter (name, value) SELECT 'run', COUNT(*) FROM run r WHERE r.way = 'coats' HAVING COUNT(*) > 0
  ON DUPLICATE KEY UPDATE value = counter.value + VALUES(value);
INSERT INTO run_stage (run_id, seq, plan, done_at, done_by)
  SELECT r.id, ROW_NUMBER() OVER (PARTITION BY r.id ORDER BY p.started_at, p.id),
    JSON_OBJECT('act', 'coat', 'text', p.label, 'layer', '', 'waits', 'dry', 'wait_s', 0, 'pot', p.id), p.started_at, r.person_id
  FROM pot p JOIN run r ON r.piece_id = p.piece_id AND r.way = 'coats' WHERE p.stage_id IS NULL AND p.copy_id IS NULL AND p.mould_id IS NULL AND p.kind = 'dry';
UPDATE pot p JOIN run r ON r.piece_id = p.piece_id AND r.way = 'coats' JOIN run_stage s ON s.run_id = r.id AND JSON_VALUE(s.plan, '$.pot') = p.id
  SET p.stage_id = s.id, s.plan = JSON_REMOVE(s.plan, '$.pot') WHERE p.stage_id IS NULL;
INSERT INTO copy (piece_id, number, code, run_id, section_number, state, made_at)
  SELECT u.piece_id, u.n, CONCAT(u.piece, '-', IF(u.n > 26, CHAR(96 + FLOOR((u.n - 1) / 26)), ''), CHAR(97 + (u.n - 1) % 26)), u.run_id, u.section_number, 'making', u.started_at FROM (
    SELECT r.piece_id, q.code AS piece, r.id AS run_id, r.section_number, r.started_at, 1 + COALESCE((SELECT value FROM counter c WHERE c.name = CONCAT('copy ', q.code)), 0) AS n
    FROM run r JOIN piece q ON q.id = r.piece_id WHERE r.way = 'coats' AND r.ended_at IS NULL) u;
INSERT INTO counter (name, value) SELECT CONCAT('copy ', q.code), 1 FROM run r JOIN piece q ON q.id = r.piece_id WHERE r.way = 'coats' AND r.ended_at IS NULL
  ON DUPLICATE KEY UPDATE value = counter.value + 1;
-- A run is over when nothing of it is being made any more.
UPDATE run r SET r.ended_at = COALESCE((SELECT MAX(p.ended_at) FROM pot p JOIN run_stage s ON s.id = p.stage_id WHERE s.run_id = r.id), r.started_at)
  WHERE r.ended_at IS NULL AND NOT EXISTS (SELECT 1 FROM copy c WHERE c.run_id = r.id AND c.state = 'making');

-- What has to be done to a copy, or to a piece, by list and in order.
CREATE TABLE work_item (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  copy_id BIGINT UNSIGNED NULL,
  list VARCHAR(16) NOT NULL,
  seq SMALLINT UNSIGNED NOT NULL,
  item VARCHAR(40) NOT NULL,
  UNIQUE KEY work_item_once (copy_id, list, item),
  INDEX work_item_piece (piece_id, list),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  CHECK (list <> '' AND item <> '')
);
INSERT INTO work_item (piece_id, copy_id, list, seq, item)
  SELECT c.piece_id, c.id, 'finish', i.seq, i.item FROM copy c
  JOIN (SELECT 1 AS seq, 'trim' AS item UNION SELECT 2, 'seam' UNION SELECT 3, 'edge' UNION SELECT 4, 'colour_reading' UNION SELECT 5, 'photograph') i
  WHERE c.state IN ('made','repair') ORDER BY c.id, i.seq;

-- Readings of anything: colour, mass, thickness.
CREATE TABLE reading (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  subject ENUM('copy','piece','stage','mix','mould','lot') NOT NULL,
  subject_id BIGINT UNSIGNED NOT NULL,
  quantity ENUM('colour','mass','thickness') NOT NULL,
  value JSON NOT NULL,
  place VARCHAR(80) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX reading_of (subject, subject_id, quantity, id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);
INSERT INTO reading (subject, subject_id, quantity, value, at, person_id)
  SELECT 'copy', copy_id, 'colour', reading, at, person_id FROM finish_tick WHERE reading IS NOT NULL ORDER BY id;
ALTER TABLE finish_tick MODIFY item VARCHAR(40) NOT NULL, ADD COLUMN reading_id BIGINT UNSIGNED NULL,
  ADD CONSTRAINT finish_tick_reading FOREIGN KEY (reading_id) REFERENCES reading(id);
UPDATE finish_tick t JOIN reading g ON g.subject = 'copy' AND g.subject_id = t.copy_id AND g.at = t.at SET t.reading_id = g.id WHERE t.reading IS NOT NULL;
ALTER TABLE finish_tick DROP COLUMN reading;

-- The shop's address book: an artist is a person in it.
CREATE TABLE contact (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL UNIQUE,
  what VARCHAR(40) NOT NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  CHECK (name <> '' AND what <> '')
);
INSERT INTO contact (name, what) SELECT DISTINCT artist_name, 'makeup artist' FROM kit;
ALTER TABLE kit ADD COLUMN artist_id BIGINT UNSIGNED NULL AFTER day_id;
UPDATE kit k JOIN contact a ON a.name = k.artist_name SET k.artist_id = a.id;
ALTER TABLE kit MODIFY artist_id BIGINT UNSIGNED NOT NULL, DROP COLUMN artist_name, ADD CONSTRAINT kit_artist FOREIGN KEY (artist_id) REFERENCES contact(id);

-- When a copy was worn, how long, and when it came back.
CREATE TABLE copy_use (
  copy_id BIGINT UNSIGNED NOT NULL,
  day_id BIGINT UNSIGNED NOT NULL,
  kit_id BIGINT UNSIGNED NULL,
  worn_h DECIMAL(4,1) NULL,
  returned_at DATETIME(6) NULL,
  PRIMARY KEY (copy_id, day_id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (day_id) REFERENCES shooting_day(id),
  FOREIGN KEY (kit_id) REFERENCES kit(id)
);
INSERT INTO copy_use (copy_id, day_id, kit_id, worn_h)
  SELECT kc.copy_id, k.day_id, k.id, (SELECT MAX(t.worn_h) FROM artist_report t WHERE t.kit_id = k.id) FROM kit_copy kc JOIN kit k ON k.id = kc.kit_id WHERE k.handed_at IS NOT NULL;

-- A report may point at what it is about.
ALTER TABLE artist_report
  ADD COLUMN copy_id BIGINT UNSIGNED NULL, ADD COLUMN layer VARCHAR(64) NOT NULL DEFAULT '', ADD COLUMN lot_id BIGINT UNSIGNED NULL, ADD COLUMN stage_id BIGINT UNSIGNED NULL,
  ADD CONSTRAINT artist_report_copy FOREIGN KEY (copy_id) REFERENCES copy(id),
  ADD CONSTRAINT artist_report_lot FOREIGN KEY (lot_id) REFERENCES lot(id),
  ADD CONSTRAINT artist_report_stage FOREIGN KEY (stage_id) REFERENCES run_stage(id);

-- How many copies a day wants of a piece.
ALTER TABLE piece_day ADD COLUMN wanted SMALLINT UNSIGNED NOT NULL DEFAULT 1;

-- +goose Down
SELECT 1;
