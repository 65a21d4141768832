package diag

import "strings"

// Nearest returns the known name that a mistyped one most likely means, or ""
// when none is near. Exchanged neighbours count as one slip.
func Nearest(name string, known []string) string {
	if len(name) > 200 {
		return "" // no name is that long
	}
	low := strings.ToLower(name)
	// Short names bear one slip, longer ones more.
	slips := 1
	if n := len([]rune(name)); n > 3 {
		slips = max(2, n/3)
	}
	best, bestDist := "", slips+1
	for _, k := range known {
		kl := strings.ToLower(k)
		if d := distance(low, kl, bestDist); d < bestDist {
			best, bestDist = k, d
		}
	}
	return best
}

// distance is the number of slips (a character left out, put in, exchanged with
// its neighbour, or another in its place) between a and b, or at least limit.
func distance(a, b string, limit int) int {
	x, y := []rune(a), []rune(b)
	if d := len(x) - len(y); d >= limit || -d >= limit {
		return limit
	}
	before, last, row := make([]int, len(y)+1), make([]int, len(y)+1), make([]int, len(y)+1)
	for j := range last {
		last[j] = j
	}
	for i := range x {
		row[0] = i + 1
		for j := range y {
			cost := 1
			if x[i] == y[j] {
				cost = 0
			}
			row[j+1] = min(last[j+1]+1, row[j]+1, last[j]+cost)
			if i > 0 && j > 0 && x[i] == y[j-1] && x[i-1] == y[j] {
				row[j+1] = min(row[j+1], before[j-1]+1)
			}
		}
		before, last, row = last, row, before
	}
	return last[len(y)]
}
