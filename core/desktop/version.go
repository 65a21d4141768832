package desktop

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"leitstand/core/intent"
)

// Versions are those of a Linux desktop whose chords are known, the oldest first. The list is
// shared; nobody may change it.
func Versions(name string) []string { return versions()[name] }

var versions = sync.OnceValue(func() map[string][]string {
	found := map[string][]string{}
	for line := range strings.Lines(defaultsText) {
		head, _, _ := strings.Cut(line, "\t")
		name, version, ok := strings.Cut(head, " ")
		if ok && name != "#" && !slices.Contains(found[name], version) {
			found[name] = append(found[name], version)
		}
	}
	for _, list := range found {
		slices.SortFunc(list, CompareVersions)
	}
	return found
})

// Version is the version of a machine's desktop: what the mapping says, or the newest that is
// known; "" where there is none.
func Version(m *intent.Machine) string {
	known := versions()[m.Desktop]
	if m.DesktopVersion != "" || len(known) == 0 {
		return m.DesktopVersion
	}
	return known[len(known)-1]
}

// Since says whether a machine's desktop is of a version or newer.
func Since(m *intent.Machine, version string) bool {
	return CompareVersions(Version(m), version) >= 0
}

// nearest is the known version of a desktop by whose chords a version goes: the newest that is
// not newer, or the oldest.
func nearest(name, version string) string {
	known := versions()[name]
	found := ""
	for i, v := range known {
		if i == 0 || CompareVersions(v, version) <= 0 {
			found = v
		}
	}
	return found
}

// CompareVersions compares by the numbers between the dots, of which a shorter version has
// all: 5 is 5.27 as well as 5.20.
func CompareVersions(a, b string) int {
	x, y := strings.Split(a, "."), strings.Split(b, ".")
	for i := range min(len(x), len(y)) {
		m, _ := strconv.Atoi(x[i])
		n, _ := strconv.Atoi(y[i])
		if c := cmp.Compare(m, n); c != 0 {
			return c
		}
	}
	return 0
}
