package money

import "strings"

// The currencies of ISO 4217, list one, by the decimals of their minor units, as
// of 2026-11: after amendments 176 (XCG), 177 (ZWG) and the withdrawals of ANG,
// HRK, SLL, VEF, ZWL and BGN. Codes without a minor unit (metals, accounting and
// test codes) are none that prices are in. The tables of x/text follow CLDR, which
// gives several of these other decimals and knows neither the newest nor which
// were withdrawn.
var minorUnits = func() map[string]int {
	all := map[string]int{}
	for decimals, codes := range map[int]string{
		0: "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF",
		2: `AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BMD BND BOB BOV BRL BSD BTN BWP BYN BZD CAD CDF CHE CHF CHW CNY COP COU CRC CUP CVE
			CZK DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GTQ GYD HKD HNL HTG HUF IDR ILS INR IRR JMD KES KGS KHR KPW KYD KZT LAK LBP
			LKR LRD LSL MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MXV MYR MZN NAD NGN NIO NOK NPR NZD PAB PEN PGK PHP PKR PLN QAR RON RSD RUB
			SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TOP TRY TTD TWD TZS UAH USD USN UYU UZS VED VES WST XAD XCD XCG
			YER ZAR ZMW ZWG`,
		3: "BHD IQD JOD KWD LYD OMR TND",
		4: "CLF UYW",
	} {
		for _, code := range strings.Fields(codes) {
			all[code] = decimals
		}
	}
	return all
}()
