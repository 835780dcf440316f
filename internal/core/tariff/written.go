package tariff

// Written is a program as it could be written down for a workbook: the lines that are
// added up, in minor units of the list before each is rounded, and how the sum is settled.
type Written struct {
	Limits []WrittenLimit
	Bill   []WrittenLine // of the period
	Used   []WrittenLine // of one month, as used
	Once   []WrittenLine // at signing
	Settle float64       // minor units of the study for one of the list
}

// WrittenLimit is the most of a meter that is served, in readings.
type WrittenLimit struct {
	Meter int
	Most  int64
}

// WrittenLine is base + rate·(x - from) in the stretch that a reading x falls in, or of
// the number of packs; Meter is -1 for what hangs on no reading.
type WrittenLine struct {
	Label              string
	Meter              int
	Stretches          []WrittenStretch
	Size, Start, Scale int64 // of a pack: x·Scale above Start, by Size; 0 for what is none
}

// WrittenStretch holds for readings up to End.
type WrittenStretch struct {
	From, End  int64
	Base, Rate float64
}

// Write writes down what holds so many months after signing, of a bill that began into
// months before. It is false where there is a choice of add-ons or packs, or where
// something is a multiple of another meter.
func (p *Program) Write(since, into int) (w Written, ok bool) {
	now := p.at(since)
	if len(now.ways) != 1 {
		return w, false
	}
	way, later := &now.ways[0], &p.at(since + into).ways[0]
	for i := range way.limits {
		l := &way.limits[i]
		if l.times != nil {
			return w, false
		}
		w.Limits = append(w.Limits, WrittenLimit{l.meter, l.most})
	}
	w.Settle, _ = way.bill.settle.rat().Float64()
	for _, one := range []struct {
		from *sheet
		to   *[]WrittenLine
	}{{&way.bill, &w.Bill}, {&later.used, &w.Used}, {&way.once, &w.Once}} {
		for i := range one.from.lines {
			l, r := &one.from.lines[i], &one.from.refs[i]
			if l.times != nil {
				return w, false
			}
			line := WrittenLine{Label: "fixed price", Meter: l.meter, Size: l.size, Start: l.start, Scale: l.scale}
			if r.charge != nil {
				line.Label = r.charge.Label
			}
			for _, st := range l.stretches {
				base, _ := st.base.times(l.by).rat().Float64()
				rate, _ := st.rate.times(l.by).rat().Float64()
				line.Stretches = append(line.Stretches, WrittenStretch{st.from, st.end, base, rate})
			}
			*one.to = append(*one.to, line)
		}
	}
	return w, true
}
