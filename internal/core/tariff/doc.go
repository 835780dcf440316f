// Package tariff compiles the prices of a plan on a term into numbers: what it
// costs at any usage, why, and where its price next changes.
//
// Every charge is a piecewise straight line. In minor units times a denominator
// it is base + rate·(x - from) in the band that the reading x falls in, rounded
// once, half away from zero; a pack is such a line over the number of packs. So a
// plan on a term is compiled once into two shapes, straight lines with one knee
// and tables of bands, over readings that are whole numbers.
//
// Readings stand in an order of their own: that of the edition's meters. Each
// counts in the meter's grain, which is one unit, or a millionth of it where the
// meter bills fractions.
package tariff
