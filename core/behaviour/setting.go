package behaviour

import (
	"strconv"
	"strings"
	"time"
)

// Delay is the value of a setting that is a time, such as how long a key is held
// before it repeats, in milliseconds.
func (e Effect) Delay() int {
	d, _ := time.ParseDuration(e.Value) // the mapping has made it from a duration
	return int(d.Milliseconds())
}

// Rate is the value of a setting that is a number of times a second.
func (e Effect) Rate() int {
	text, _, _ := strings.Cut(e.Value, "/")
	n, _ := strconv.Atoi(text) // the mapping has made it from a number
	return n
}
