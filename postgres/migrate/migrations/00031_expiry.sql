-- +goose Up
-- What is over is looked for every few minutes, among all that is not.
CREATE INDEX session_expires_at ON plainpath.session (expires_at);
CREATE INDEX device_expires_at ON plainpath.device (expires_at);
CREATE INDEX password_link_expires_at ON plainpath.password_link (expires_at);

-- +goose Down
DROP INDEX plainpath.session_expires_at, plainpath.device_expires_at, plainpath.password_link_expires_at;
