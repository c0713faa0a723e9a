-- +goose Up

-- Tools and cloth of the shop, several of a kind in a row, and what became of them.
CREATE TABLE tool (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  kind ENUM('brush','sponge','spatula','whisk','bowl','airbrush','towel','cloth','clothes','other') NOT NULL,
  state ENUM('good','worn','messy') NOT NULL DEFAULT 'good',
  held INT UNSIGNED NOT NULL,
  place VARCHAR(80) NOT NULL DEFAULT '',
  cost_minor BIGINT NOT NULL DEFAULT 0,
  dirty VARCHAR(80) NOT NULL DEFAULT '',
  UNIQUE KEY tool_once (name, kind, state)
);
CREATE TABLE tool_event (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  tool_id BIGINT UNSIGNED NOT NULL,
  act ENUM('came','used','cleaned','worn','messy','thrown') NOT NULL,
  n INT UNSIGNED NOT NULL,
  medium VARCHAR(80) NOT NULL DEFAULT '',
  why VARCHAR(200) NOT NULL DEFAULT '',
  cost_minor BIGINT NOT NULL DEFAULT 0,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX tool_event_thrown (act, at),
  FOREIGN KEY (tool_id) REFERENCES tool(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- +goose Down
SELECT 1;
