-- +goose Up
-- A price list may be read twice a day: the second time has its time of day, too.
alter table editions alter column observed_on type timestamp using observed_on::timestamp;

-- +goose Down
select 1; -- migrations go forward only
