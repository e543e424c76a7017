package main

import (
	"fmt"
	"math/rand/v2"
	"strconv"
)

// The borough asks every year; firstWave is the year of the first file. Part of the households of a year are asked
// again in the next one. In the third year the question on satisfaction had another wording, and one answer to the
// question on the wish for collection was offered from the second year on.
const firstWave = 2024

// waveSizes are the households of each year, and how many of the year before are among them.
var waveSizes = [][2]int{{620, 0}, {640, 310}, {600, 360}}

type asked struct {
	id           string
	ward, tenure int
	leaning      float64 // to use the caddy, of the household itself
	content      float64
}

func waves() (out [][][]string) {
	rng := rand.New(rand.NewPCG(2024, 3))
	var before []asked
	next := 1
	for wave, size := range waveSizes {
		var now []asked
		for _, i := range rng.Perm(len(before))[:size[1]] {
			now = append(now, before[i])
		}
		for len(now) < size[0] {
			now = append(now, asked{fmt.Sprintf("FH-%04d", next), rng.IntN(len(wards)), rng.IntN(3), rng.NormFloat64(), rng.NormFloat64()})
			next++
		}
		rows := [][]string{{"household", "ward", "tenure", "caddy", "satisfaction", "prefers"}}
		for _, h := range now {
			rows = append(rows, []string{h.id, wards[h.ward].name, strconv.Itoa(h.tenure + 1), h.caddy(rng, wave), h.satisfied(rng, wave), h.prefers(rng, wave)})
		}
		out, before = append(out, rows), now
	}
	return out
}

// caddy is whether a household uses it, more of them after the leaflet of the third year.
func (h asked) caddy(rng *rand.Rand, wave int) string {
	switch u := h.leaning + 0.6*rng.NormFloat64() + []float64{0.1, 0.16, 0.42}[wave]; {
	case rng.IntN(40) == 0:
		return ""
	case u > 0:
		return "1"
	}
	return "0"
}

// satisfied is from 1 to 5; the wording of the third year draws kinder answers.
func (h asked) satisfied(rng *rand.Rand, wave int) string {
	u := h.content + 0.7*rng.NormFloat64() + []float64{0.3, 0.35, 0.7}[wave]
	answer := 1
	for _, limit := range []float64{-1.4, -0.6, 0.1, 1} {
		if u > limit {
			answer++
		}
	}
	return strconv.Itoa(answer)
}

func (h asked) prefers(rng *rand.Rand, wave int) string {
	u := rng.Float64()
	switch {
	case wave > 0 && u < 0.14:
		return "request"
	case u < 0.62-0.03*float64(wave):
		return "weekly"
	}
	return "fortnightly"
}
