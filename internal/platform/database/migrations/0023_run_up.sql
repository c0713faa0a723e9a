-- Somebody is away for a day, or the shop is open beside its hours, of one person or of everybody; or, from a day on, the oven may run
-- while nobody is in.
CREATE TABLE hours_change (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind ENUM('away','extra','night') NOT NULL,
  person_id BIGINT UNSIGNED NULL,
  day DATE NOT NULL,
  from_min SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  to_min SMALLINT UNSIGNED NOT NULL DEFAULT 1440,
  words VARCHAR(200) NOT NULL DEFAULT '',
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  back_at DATETIME(6) NULL,
  INDEX hours_change_day (day, back_at),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (by_id) REFERENCES person(id),
  CHECK (from_min < to_min AND to_min <= 1440)
);

-- The plan that the shop took: what moves is told against it. Rows are only added; the newest is in force.
CREATE TABLE run_up_plan (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  origin DATETIME(6) NOT NULL,
  doc JSON NOT NULL,
  FOREIGN KEY (person_id) REFERENCES person(id)
);
