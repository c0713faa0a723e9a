-- +goose Up

-- A further mould that the shop decided to build: the plan counts on it until a mould is begun beyond those that the piece had, or
-- until it is taken back.
CREATE TABLE plan_mould (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  had SMALLINT UNSIGNED NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  back_at DATETIME(6) NULL,
  INDEX plan_mould_open (back_at, piece_id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (by_id) REFERENCES person(id)
);

-- +goose Down
SELECT 1;
