package formats_test

import (
	"testing"

	"ninecoins/internal/demo"
	"ninecoins/internal/formats"
)

func BenchmarkReadPriceList(b *testing.B) {
	list := demo.PriceLists()[0]
	for b.Loop() {
		if _, err := formats.ReadPriceList(b.Context(), list, day); err != nil {
			b.Fatal(err)
		}
	}
}
