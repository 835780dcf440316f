package projection

// plain is a kind of term whose programs have no offers and charge nothing once:
// what they cost hangs on the month alone, as long as no stock fell inside the
// term. It holds all that in one row a month.
type plain struct {
	is        bool
	cells     []plainCell // by month, and in it by program of the kind
	up        []int       // the first program of a higher rank, by program
	now, next []value
}

type plainCell struct {
	bill, used int64
	ok         bool
}

func (h *choosing) plainOf(kind []int) (p plain) {
	for _, i := range kind {
		if h.deep[i] > 0 || h.once[i] {
			return p
		}
	}
	p.is, p.cells = true, make([]plainCell, len(kind)*len(h.rows))
	for u := range h.rows {
		for j, i := range kind {
			c := h.known(i, u, u)
			p.cells[u*len(kind)+j] = plainCell{c.Bill, c.Used, c.ok}
		}
	}
	for j := range kind {
		up := j + 1
		for up < len(kind) && h.quick[kind[up]].rank <= h.quick[kind[j]].rank {
			up++
		}
		p.up = append(p.up, up)
	}
	p.now, p.next = make([]value, len(kind)), make([]value, len(kind))
	return p
}

// fillPlain is fill for a plain kind, of which it leaves the first month. It is
// false where the kind is none, or a stock fell.
func (h *choosing) fillPlain(at, start int) bool {
	p, kind := &h.plain[at], h.kinds[at]
	if !p.is {
		return false
	}
	n := h.length(kind[0], start)
	months := min(n, len(h.rows)-start)
	for k := 1; k < months; k++ {
		if h.levelled[start+k] >= start {
			return false
		}
	}
	monthly, size := h.quick[kind[0]].monthly, len(kind)
	for k := months - 1; k >= 0; k-- {
		u := start + k
		row := p.cells[u*size : (u+1)*size]
		last := u+1 == len(h.rows)
		for j := range row {
			c, q := &row[j], &h.quick[kind[j]]
			if !c.ok {
				p.now[j] = never
				continue
			}
			v := value{cost: c.used, gravest: q.asks}
			if monthly {
				v.cost += c.bill
			}
			switch {
			case last:
			case k+1 == n:
				v = v.plus(h.free[u+1][q.at])
			default:
				v = v.plus(h.plainNext(p, kind, j, start, k+1, n))
			}
			p.now[j] = v
		}
		p.now, p.next = p.next, p.now
	}
	if len(h.inside) == 0 {
		h.inside = append(h.inside, make([]inside, h.depth))
	}
	for j, c := range p.cells[start*size : (start+1)*size] {
		h.inside[0][h.offset[kind[j]]] = inside{p.next[j], c.bill, c.used, c.ok}
	}
	return true
}

// plainNext is the least that is to be paid from month k of a term on.
func (h *choosing) plainNext(p *plain, kind []int, j, start, k, n int) value {
	u, size := start+k, len(kind)
	monthly, bill := h.quick[kind[j]].monthly, p.cells[(u-1)*size+j].bill
	row := p.cells[u*size : (u+1)*size]
	best, served := never, row[j].ok
	if served {
		if best = p.next[j]; !monthly && row[j].bill != bill {
			best.cost += h.more(row[j].bill, bill, start, k, n)
		}
	}
	for m := p.up[j]; m < size; m++ {
		v := p.next[m]
		if v.moves++; !row[m].ok || !v.less(best) || !h.quick[kind[m]].may[u] {
			continue
		}
		if !monthly && row[m].bill != bill {
			v.cost += h.more(row[m].bill, bill, start, k, n)
		}
		if served = true; v.less(best) {
			best = v
		}
	}
	if !served { // what was paid ahead is lost
		return h.free[u][h.quick[kind[j]].at]
	}
	return best
}

// more is what a bill asks for in month k of a term beyond the credit for another.
func (h *choosing) more(bill, before int64, start, k, n int) int64 {
	return max(0, h.left(bill, start, k, n)-h.left(before, start, k, n))
}
