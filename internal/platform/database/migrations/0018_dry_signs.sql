-- +goose Up

-- Somebody found a coat touch-dry or dry through: how long that took to what the book
-- said, by the air and what was behind. What the shop learned is asked from these.
CREATE TABLE dry_sign (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  pot_id BIGINT UNSIGNED NOT NULL,
  place VARCHAR(40) NOT NULL,
  stage ENUM('touch','dry') NOT NULL,
  at_s DOUBLE NOT NULL,
  book_s DOUBLE NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  forgotten_at DATETIME(6) NULL,
  INDEX dry_sign_place (place, forgotten_at, id),
  UNIQUE KEY dry_sign_once (pot_id, stage),
  FOREIGN KEY (pot_id) REFERENCES pot(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  CHECK (at_s > 0 AND book_s > 0)
);

-- +goose Down
SELECT 1;
