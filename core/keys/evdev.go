package keys

import (
	_ "embed"
	"strconv"
	"strings"
)

// evdevText is the kernel's names of input event codes, in lower case: a line for each,
// the code before the name. A run asks for few, so they are looked for as they stand.
//
//go:embed data/evdev.txt
var evdevText string

// EvdevName is the kernel's name of the key without KEY_, in lower case.
func (k Key) EvdevName() (string, bool) {
	code, ok := k.Evdev()
	if !ok {
		return "", false
	}
	_, after, ok := strings.Cut(evdevText, "\n"+strconv.Itoa(code)+" ")
	name, _, _ := strings.Cut(after, "\n")
	return name, ok
}

// ByEvdevName finds a key by the kernel's name, and says whether there is such a
// name at all.
func ByEvdevName(name string) (k Key, named bool) {
	before, _, ok := strings.Cut(evdevText, " "+name+"\n")
	code, err := strconv.Atoi(before[strings.LastIndexByte(before, '\n')+1:])
	if !ok || err != nil {
		return None, false
	}
	k, _ = ByEvdev(code)
	return k, true
}
