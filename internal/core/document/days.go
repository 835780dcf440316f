package document

import (
	"errors"
	"time"
)

func writeDay(d time.Time) string {
	if d.IsZero() {
		return ""
	}
	return d.Format(time.DateOnly)
}

func parseDay(s string) (time.Time, error) {
	d, err := time.Parse(time.DateOnly, s)
	if err == nil && (d.Year() < 1990 || d.Year() > 2199) {
		err = errors.New("out of range")
	}
	return d, err
}

// typedDay reads 2026-10-02, 2 Oct 2026 and 2 October 2026.
func typedDay(s string) (time.Time, error) {
	for _, form := range []string{"2 Jan 2006", "2 January 2006"} {
		if d, err := time.Parse(form, s); err == nil {
			s = d.Format(time.DateOnly)
		}
	}
	return parseDay(s)
}

func showDay(d time.Time) string {
	if d.IsZero() {
		return ""
	}
	return d.Format("2 Jan 2006")
}

// Day is how days are written.
var Day = Notation[time.Time]{
	Parse: parseDay, Typed: typedDay, Text: writeDay, Show: showDay,
	Want: `a day such as "2026-10-02"`, As: IsText, Input: Input{Longest: 10}, Schema: map[string]any{"format": "date"},
}

// The forms of a day with a time, in files and where people read it.
const (
	timedForm = "2006-01-02T15:04"
	timedShow = "2 Jan 2006, 15:04"
)

// timed reports whether more than a day is told.
func timed(d time.Time) bool { return d.Hour() != 0 || d.Minute() != 0 }

// DayOrTime is how the day is written on which something was read, with its time where that was not
// the first of the day.
var DayOrTime = Notation[time.Time]{
	Parse: func(s string) (time.Time, error) {
		if d, err := time.Parse(timedForm, s); err == nil {
			_, err = parseDay(d.Format(time.DateOnly))
			return d, err
		}
		return parseDay(s)
	},
	Typed: func(s string) (time.Time, error) {
		for _, form := range []string{timedShow, timedForm} {
			if d, err := time.Parse(form, s); err == nil {
				return d, nil
			}
		}
		return typedDay(s)
	},
	Text: func(d time.Time) string {
		if timed(d) {
			return d.Format(timedForm)
		}
		return writeDay(d)
	},
	Show: func(d time.Time) string {
		if timed(d) {
			return d.Format(timedShow)
		}
		return showDay(d)
	},
	Want: `a day such as "2026-10-02"`, As: IsText, Input: Input{Longest: 20}, Schema: map[string]any{"pattern": `^[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])(T([01][0-9]|2[0-3]):[0-5][0-9])?$`},
}

// Until is a [DayOrTime] of a day that is not later than another.
func Until(latest time.Time) Notation[time.Time] {
	n := DayOrTime
	not := func(parse func(string) (time.Time, error)) func(string) (time.Time, error) {
		return func(s string) (time.Time, error) {
			d, err := parse(s)
			if err == nil && d.Truncate(24*time.Hour).After(latest) {
				err = Problem(s + " is in the future")
			}
			return d, err
		}
	}
	n.Parse, n.Typed = not(n.Parse), not(n.Typed)
	return n
}

// Moment is a point in time that is not later than a day.
func Moment(latest time.Time) Notation[time.Time] {
	return Notation[time.Time]{
		Parse: func(s string) (time.Time, error) {
			at, err := time.Parse(time.RFC3339Nano, s)
			switch {
			case err == nil && (at.Year() < 1990 || at.Year() > 2199):
				err = errors.New("out of range")
			case err == nil && at.After(latest.AddDate(0, 0, 1)):
				err = Problem(s + " is in the future")
			}
			return at.UTC(), err
		},
		Text: func(t time.Time) string {
			if t.IsZero() {
				return ""
			}
			return t.UTC().Format(time.RFC3339Nano)
		},
		Want: `a moment such as "2026-10-02T09:30:00Z"`, As: IsText, Schema: map[string]any{"format": "date-time"},
	}
}
