// Command fc stands in for the program of Windows that compares files: Wine's is a stub that finds all files equal.
// It takes /b and two files, and exits with 0 where they have the same bytes, with 1 where they do not, and with 2 where
// one cannot be read.
package main

import (
	"bytes"
	"os"
)

func main() {
	if len(os.Args) != 4 || os.Args[1] != "/b" {
		os.Exit(2)
	}
	first, err := os.ReadFile(os.Args[2])
	second, err2 := os.ReadFile(os.Args[3])
	switch {
	case err != nil || err2 != nil:
		os.Exit(2)
	case !bytes.Equal(first, second):
		os.Exit(1)
	}
}
