package tariff

import "sort"

// Bend returns a reading of a meter, above that of one row and up to that of another,
// from which on [Program.Straight] begins another line: the first past a band, a limit
// or where packs begin. Of all there are it is the one in the middle of the charge that
// has most, and many is how many that charge has; none is 0. With packs, each pack that
// begins is one too. Bends that are multiples of another meter are left out.
func (p *Program) Bend(since int, lo, hi []int64, packs bool) (meter int, reading int64, many int) {
	take := func(m int, at int64, n int) {
		if n > many {
			meter, reading, many = m, at, n
		}
	}
	now := p.at(since)
	for i := range now.ways {
		w := &now.ways[i]
		for j := range w.limits {
			if l := &w.limits[j]; l.times == nil && lo[l.meter] <= l.most && l.most < hi[l.meter] {
				take(l.meter, l.most+1, 1)
			}
		}
		for _, s := range []*sheet{&w.bill, &w.used} {
			for j := range s.lines {
				l := &s.lines[j]
				if l.meter < 0 {
					continue
				}
				from, to := lo[l.meter], hi[l.meter]
				switch {
				case l.size == 0:
					first, last := endAt(l.stretches, from), endAt(l.stretches, to)
					if first < last {
						take(l.meter, l.stretches[(first+last-1)/2].end+1, last-first)
					}
				case l.times != nil:
				case from*l.scale < l.start && l.start < to*l.scale:
					take(l.meter, l.start/l.scale+1, 1)
				case packs && to*l.scale > l.start:
					begun, then := int64(0), (to*l.scale-l.start-1)/l.size+1
					if from*l.scale > l.start {
						begun = (from*l.scale-l.start-1)/l.size + 1
					}
					if begun < then {
						take(l.meter, (l.start+(begun+then-1)/2*l.size)/l.scale+1, int(then-begun))
					}
				}
			}
		}
	}
	return meter, reading, many
}

// endAt is the first stretch that ends at a reading or later.
func endAt(all []stretch, x int64) int {
	return sort.Search(len(all), func(i int) bool { return all[i].end >= x })
}
