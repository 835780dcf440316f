-- +goose Up
-- What a platform does in a line or two stands beside its name, so that the shelf is
-- looked through without reading price lists.
alter table platforms add column about text not null default '';
create index platforms_shelf on platforms (workspace_id, lower(name), key) where deleted_at is null;
create index editions_newest on editions (platform_id, observed_on desc);
-- Uses are counted up to a bound in the order of this index: without an order the server
-- would read all uses for what is hardly used.
drop index document_editions_edition;
create index document_editions_edition on document_editions (edition_id, document_id);

-- +goose Down
select 1; -- migrations go forward only
