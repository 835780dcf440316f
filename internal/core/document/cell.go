package document

// cell returns the end of a field of an item that is not there, where the list
// makes items from their keys; else nil.
func (l *list[P, T]) cell(p *P, steps []string) end {
	if l.items.Make == nil {
		return nil
	}
	item, ok := l.items.Make(steps[1])
	if !ok {
		return nil
	}
	e := l.parts.at(&item, steps[2:], true)
	if e == nil {
		return nil
	}
	return &cellEnd[P, T]{e, l, p, &item, steps[1]}
}

// cellEnd is a field of an item that comes into being when it is set.
type cellEnd[P, T any] struct {
	end
	list *list[P, T]
	p    *P
	item *T
	key  string
}

func (c *cellEnd[P, T]) spot() Spot {
	s := c.list.named(c.p, c.item, c.end.spot())
	s.Text, s.Shown, s.Said, s.There = "", "", c.list.items.Absent, false
	return s
}

func (c *cellEnd[P, T]) apply(op *Op) error {
	switch {
	case op.Do != Set:
		return c.end.apply(op)
	case op.Was != "" || op.To == "":
		return &ChangedError{op.Path, ""}
	}
	inner := *op
	inner.Was = c.end.spot().Text
	if err := c.end.apply(&inner); err != nil {
		return err
	}
	at := itemEnd[P, T]{c.list, c.p, c.key, -1}
	steps := op.Path.Steps()
	*op = Op{Do: Insert, Path: Path("").To(steps[:len(steps)-1]...), To: at.text(c.item)}
	return at.apply(op)
}

func (c *cellEnd[P, T]) typed(text string) (string, error) {
	f, ok := c.end.(interface{ typed(string) (string, error) })
	if !ok {
		return "", &InvalidError{"", "is no field"}
	}
	if text == "" {
		return "", nil
	}
	return f.typed(text)
}
