// Command gen reads X11's compose sequences of UTF-8 locales, of one version or more, and prints
// what begins a longer sequence behind the Compose key, a line each: a sequence of ours that is one
// of these would not count beside them.
package main

import (
	"fmt"
	"log"
	"maps"
	"os"
	"regexp"
	"slices"
	"strings"

	"leitstand/core/keys"
)

func main() {
	if len(os.Args) < 2 {
		log.Fatal("usage: gen COMPOSE-FILE...")
	}
	var text []byte
	for _, path := range os.Args[1:] {
		one, err := os.ReadFile(path)
		if err != nil {
			log.Fatal(err)
		}
		text = append(text, one...)
	}
	begun := map[string]bool{}
	keysym := regexp.MustCompile(`<(\w+)>`)
	for line := range strings.Lines(string(text)) {
		sequence, ok := strings.CutPrefix(line, "<Multi_key>")
		sequence, _, colon := strings.Cut(sequence, ":")
		if !ok || !colon {
			continue
		}
		word := ""
		found := keysym.FindAllStringSubmatch(sequence, -1)
		for _, k := range found[:max(len(found)-1, 0)] {
			r, typed := keys.KeysymRune(k[1])
			if !typed || strings.HasPrefix(k[1], "KP_") {
				break
			}
			word += string(r)
			begun[word] = true
		}
	}
	for _, word := range slices.Sorted(maps.Keys(begun)) {
		fmt.Println(word)
	}
}
