-- +goose Up
-- Who speaks to the machine, or strikes keys by chance, switches keys of one letter off.
alter table accounts add column without_keys boolean not null default false;

-- +goose Down
select 1; -- migrations go forward only
