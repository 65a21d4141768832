package keys

import (
	_ "embed"
	"strconv"
	"strings"
	"sync"
)

//go:embed data/evdev.txt
var evdevText string

// evdevNames are the kernel's names of input event codes, in lower case, both ways.
var evdevNames = sync.OnceValues(func() (map[int]string, map[string]int) {
	names, codes := make(map[int]string, 800), make(map[string]int, 800)
	for line := range strings.Lines(evdevText) {
		number, name, _ := strings.Cut(strings.TrimSuffix(line, "\n"), " ")
		n, err := strconv.Atoi(number)
		if err != nil {
			continue // a comment
		}
		if _, known := names[n]; !known {
			names[n] = name
		}
		codes[name] = n
	}
	return names, codes
})

// EvdevName is the kernel's name of the key without KEY_, in lower case.
func (k Key) EvdevName() (string, bool) {
	code, ok := k.Evdev()
	if !ok {
		return "", false
	}
	names, _ := evdevNames()
	name, ok := names[code]
	return name, ok
}

// ByEvdevName finds a key by the kernel's name, and says whether there is such a
// name at all.
func ByEvdevName(name string) (k Key, named bool) {
	_, codes := evdevNames()
	code, named := codes[name]
	k, _ = ByEvdev(code)
	return k, named
}
