// Command generate writes the answers of the demo study, 1,240 invented
// households, from a fixed seed: the same bytes at every run.
package main

import (
	"encoding/csv"
	"flag"
	"fmt"
	"log"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"sort"
	"strconv"
)

func main() {
	out := flag.String("out", "fernmouth.csv", "file to write, the waves beside it")
	flag.Parse()
	write(*out, rows())
	for i, wave := range waves() {
		write(filepath.Join(filepath.Dir(*out), fmt.Sprintf("fernmouth-%d.csv", firstWave+i)), wave)
	}
}

func write(name string, rows [][]string) {
	f, err := os.Create(name)
	if err != nil {
		log.Fatal(err)
	}
	if err := csv.NewWriter(f).WriteAll(rows); err != nil {
		log.Fatal(err)
	}
	if err := f.Close(); err != nil {
		log.Fatal(err)
	}
}

// The wards with their exact counts: near the register, not on it.
var wards = []struct {
	name string
	n    int
}{{"Harbour", 238}, {"Millbrook", 221}, {"Oldgate", 272}, {"Quarry Hill", 214}, {"Saltings", 163}, {"Fenside", 132}}

var columns = []string{"household", "ward", "age_band", "tenure", "household_size", "years_at_address", "dwelling", "garden", "bin_day", "caddy_before", "caddy_after",
	"leaflet", "satisfaction", "crew", "reason_smell", "reason_time", "reason_space", "reason_no_garden", "reason_flies", "missed_collection", "prefers", "recycles_glass", "mode", "weight",
	"agree_bins", "agree_letters", "agree_tip", "tip_trips", "stratum", "street"}

type household struct {
	rng    *rand.Rand
	ward   int
	alike  float64 // what neighbours have in common
	tenure int     // 0 own, 1 rent privately, 2 rent from the borough, 3 other
	size   int
	flat   bool
}

func rows() [][]string {
	rng := rand.New(rand.NewPCG(1240, 2026))
	opinions := rand.New(rand.NewPCG(2026, 1240)) // of their own, so that the answers above stay as they are
	var order []int
	for i, w := range wards {
		for range w.n {
			order = append(order, i)
		}
	}
	rng.Shuffle(len(order), func(i, j int) { order[i], order[j] = order[j], order[i] })
	out := [][]string{columns}
	var all []*household
	for i, ward := range order {
		h := household{rng: rng, ward: ward}
		answers := h.answers(i)
		h.rng = opinions
		out = append(out, append(answers, h.opinions()...))
		all = append(all, &h)
	}
	for i, place := range streets(all) {
		out[i+1] = append(out[i+1], place[0], place[1])
	}
	return out
}

// The streets of the sample: each ward is a half by the river and one inland, the strata of the frame,
// from which streets were drawn and in these households, some more and some fewer.
const (
	fewestInStreet, mostInStreet = 7, 17
	halves                       = 2
)

var streetNames = [2][]string{
	{"Alder", "Barge", "Chandler", "Dolphin", "Eel", "Ferry", "Gannet", "Heron", "Islet", "Jetty", "Kelp", "Lantern", "Mussel", "Netmaker", "Osprey", "Pilot", "Quay", "Rope"},
	{"Lane", "Street", "Row", "Walk", "Rise", "Close"},
}

// streets gives each household a stratum and a street. Neighbours are alike: the households of a stratum
// stand in the order of what they have in common, with much that they have not, and are cut into streets.
func streets(all []*household) [][2]string {
	rng := rand.New(rand.NewPCG(2026, 7))
	out, in := make([][2]string, len(all)), make([][]int, len(wards)*halves)
	for i, h := range all {
		h.alike += 1.2 * rng.NormFloat64()
		at := h.ward * halves
		if rng.Float64() < 0.5 {
			at++
		}
		in[at] = append(in[at], i)
	}
	number := 0
	for at, households := range in {
		sort.SliceStable(households, func(i, j int) bool { return all[households[i]].alike < all[households[j]].alike })
		stratum := wards[at/halves].name + []string{", riverside", ", inland"}[at%halves]
		for len(households) > 0 {
			n := min(len(households), fewestInStreet+rng.IntN(mostInStreet-fewestInStreet+1))
			if len(households)-n < fewestInStreet {
				n = len(households)
			}
			name := streetNames[0][number%len(streetNames[0])] + " " + streetNames[1][number/len(streetNames[0])%len(streetNames[1])]
			for _, i := range households[:n] {
				out[i] = [2]string{stratum, name}
			}
			number++
			households = households[n:]
		}
	}
	return out
}

// pick draws an index with the given weights.
func (h *household) pick(weights ...float64) int {
	total := 0.0
	for _, w := range weights {
		total += w
	}
	x := h.rng.Float64() * total
	for i, w := range weights {
		if x -= w; x < 0 {
			return i
		}
	}
	return len(weights) - 1
}

func (h *household) one(names []string, weights ...float64) string { return names[h.pick(weights...)] }

// lost blanks an answer with the given chance.
func (h *household) lost(answer string, chance float64) string {
	if h.rng.Float64() < chance {
		return ""
	}
	return answer
}

func (h *household) yes(chance float64) bool { return h.rng.Float64() < chance }

func code(yes bool) string {
	if yes {
		return "1"
	}
	return "0"
}

func (h *household) answers(i int) []string {
	h.tenure = h.pick([][]float64{{48, 30, 19, 3}, {60, 22, 16, 2}, {50, 28, 20, 2}, {66, 15, 16, 3}, {55, 24, 18, 3}, {40, 26, 31, 3}}[h.ward]...)
	h.size = 1 + h.pick(29, 34, 16, 13, 5, 2, 0.7, 0.3)
	h.flat = h.yes([]float64{0.22, 0.5, 0.45, 0.3}[h.tenure])
	garden := !h.flat || h.yes(0.15)
	before := h.yes(0.44 + 0.1*b(garden))
	leaflet := h.pick(62, 28, 10)
	after := h.yes(0.5+0.08*b(leaflet == 0)) || before && h.yes(0.42)
	if before && h.yes(0.06) {
		after = false
	}
	ward := wards[h.ward].name
	if i%271 == 60 { // a few slips of the finger, as files have them
		ward = map[string]string{"Harbour": "Harbor", "Millbrook": "Milbrook", "Oldgate": "oldgate", "Quarry Hill": "Quarry hill", "Saltings": "Salting", "Fenside": "fenside"}[ward]
	}
	h.alike = 0.9*b(h.flat) + 0.7*b(h.tenure == 2) - 0.5*b(h.tenure == 0) - 0.8*b(after)
	years := math.Exp(1.7 + 0.95*h.rng.NormFloat64())
	yearsText := strconv.FormatFloat(math.Min(math.Round(years*2)/2, 64), 'f', -1, 64)
	if i%90 == 17 {
		yearsText = "don't know"
	}
	satisfaction := 1 + h.pick(6, 12, 21, 39+6*b(after), 22+8*b(after))
	sizeText := strconv.Itoa(h.size)
	if i%124 == 50 {
		sizeText = "-9"
	}
	reasons := make([]string, 5)
	for k, chance := range []float64{0.41, 0.33, 0.28, 0.5 * b(!garden), 0.19} {
		if after {
			continue // not asked of those who use the caddy
		}
		reasons[k] = code(h.yes(chance))
	}
	return []string{
		fmt.Sprintf("F%04d", 1001+i), ward,
		h.lost(h.one([]string{"16-29", "30-44", "45-59", "60-74", "75+"}, 14, 25, 27, 22, 12), 0.012),
		h.lost([]string{"1", "2", "3", "4"}[h.tenure], 0.02),
		sizeText, h.lost(yearsText, 0.02),
		map[bool]string{true: "Flat", false: h.one([]string{"Terraced house", "Semi-detached house", "Detached house"}, 44, 38, 18)}[h.flat],
		code(garden),
		h.one([]string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday"}, 20, 21, 19, 20, 20),
		code(before), code(after),
		h.lost([]string{"Read it", "Saw it, did not read it", "Never saw it"}[leaflet], 0.025),
		h.lost(strconv.Itoa(satisfaction), 0.03),
		h.lost(h.one([]string{"1", "2", "3", "4", "5", "99"}, 3, 7, 18, 44, 25, 3), 0.01),
		reasons[0], reasons[1], reasons[2], reasons[3], reasons[4],
		h.one([]string{"Never", "Once", "Twice or more"}, 71, 21, 8),
		h.lost(h.one([]string{"Weekly", "Every two weeks", "On call"}, 47, 45, 8), 0.03),
		h.lost(code(h.yes(0.83)), 0.015),
		h.one([]string{"Doorstep", "Telephone", "Online"}, 36, 24, 40),
		strconv.FormatFloat(math.Round((0.7+0.6*h.rng.Float64()+0.25*b(h.tenure == 1))*1000)/1000, 'f', 3, 64),
	}
}

// opinions are how far the household agrees with three statements, and how often it drove to
// the tip in the last year.
func (h *household) opinions() []string {
	scale := []string{"1", "2", "3", "4", "5", "8"}
	return []string{
		h.lost(h.one(scale, 8, 15, 19, 36, 20, 2), 0.015),
		h.lost(h.one(scale, 18, 27, 24, 20, 8, 3), 0.015),
		h.lost(h.one(scale, 12, 19, 21, 30-6*b(h.flat), 14, 4), 0.015),
		h.lost(strconv.Itoa(min(14, int(h.rng.ExpFloat64()*(3.2-1.6*b(h.flat))))), 0.02),
	}
}

func b(yes bool) float64 {
	if yes {
		return 1
	}
	return 0
}
