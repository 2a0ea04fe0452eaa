-- +goose Up
-- Why it was released although kept rehearsals did not come out as expected.
ALTER TABLE plainpath.release ADD despite text;

-- +goose Down
ALTER TABLE plainpath.release DROP despite;
