package study

import "fmt"

// SayReading says what was read of a price page: "From this page 3 plans and 19 of 23
// figures were read; 3 were guessed and 1 is left over."
func SayReading(plans, read, guessed, left int, foreign bool) Phrase {
	switch {
	case foreign:
		return say("The page is in a language that is not read here: all of its *%s* are left over. Type them into a draft by hand.", some(left, "figure", "figures"))
	case read+guessed+left == 0:
		return say("There is no figure on this page.")
	case plans == 0:
		return say("*No plan* was found; *%s* left over.", figuresAre(left))
	}
	p := say("From this page *%s* and *%d of %s* were read", some(plans, "plan", "plans"), read, some(read+guessed+left, "figure", "figures"))
	switch {
	case guessed > 0 && left > 0:
		p = append(p, say("; *%d* %s guessed and *%d* %s left over", guessed, were(guessed), left, isOrAre(left))...)
	case guessed > 0:
		p = append(p, say("; *%d* %s guessed", guessed, were(guessed))...)
	case left > 0:
		p = append(p, say("; *%d* %s left over", left, isOrAre(left))...)
	}
	return append(p, Part{Text: ". Nothing is kept until it is a draft."})
}

func some(n int, one, several string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, several)
}

func figuresAre(n int) string {
	if n == 1 {
		return "1 figure is"
	}
	return fmt.Sprintf("%d figures are", n)
}

func were(n int) string {
	if n == 1 {
		return "was"
	}
	return "were"
}

func isOrAre(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}
