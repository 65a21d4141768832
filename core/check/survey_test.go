package check_test

import (
	"fmt"
	"os"
	"regexp"
	"strconv"
	"testing"

	"pgregory.net/rapid"

	"leitstand/core/check"
	"leitstand/core/diag"
	"leitstand/internal/sample"
)

func TestSurvey(t *testing.T) {
	n, _ := strconv.Atoi(os.Getenv("SURVEY"))
	from, _ := strconv.Atoi(os.Getenv("FROM"))
	g := rapid.Custom(sample.Mapping)
	seen := map[string]int{}
	first := map[string]string{}
	digits := regexp.MustCompile(`drawn.hcl:[0-9:]+|"[^"]*"`)
	for i := from; i < from+n; i++ {
		d := g.Example(i)
		r, err := check.Mapping(d.Mapping, check.Here{}, nil)
		list := append(d.Found, r.Findings...)
		if err != nil {
			list = append(list, diag.Diagnostic{Code: "ERR", Summary: err.Error()})
		}
		got := d.Wrong == ""
		for _, f := range list {
			if f.Severity != diag.Error {
				continue
			}
			if f.Code == d.Wrong {
				got = true
				continue
			}
			key := f.Code + ": " + digits.ReplaceAllString(f.Summary, "")
			if os.Getenv("COARSE") != "" {
				key = f.Code
			}
			seen[key]++
			if seen[key] <= 3 {
				first[key] += fmt.Sprintf("  seed %d: %s %s %v\n", i, f.Range, f.Summary, f.Machines)
			}
		}
		if !got {
			k := "NOT TOLD " + d.Wrong
			seen[k]++
			first[k] = fmt.Sprint("  seed ", i, "\n")
		}
		if os.Getenv("SHOW") == fmt.Sprint(i) {
			fmt.Println(d.Text)
			for _, f := range list {
				fmt.Println(f.Severity, f.Range, f.Code, f.Summary, f.Machines)
			}
		}
	}
	for k, n := range seen {
		fmt.Printf("%5d %s\n%s", n, k, first[k])
	}
}
