-- +goose Up
-- What the documents hold, once each of them has been read (migration 8).
alter table changes drop column edit, drop column of, drop column option, drop column rater, drop column was, drop column became, drop column kept, drop column name;
drop table study_ratings, study_criteria, study_options, study_needs, study_drivers, study_rates, studies;

-- +goose Down
select 1; -- migrations go forward only
