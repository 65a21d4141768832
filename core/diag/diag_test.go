package diag_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/diag"
)

func at(file string, line, column int) diag.Range {
	return diag.Range{File: file, Start: diag.At(line, column, 100*line+column)}
}

// What shows on several machines is told once, and everything in the order of the
// file, whoever found it first.
func TestMergeAndSort(t *testing.T) {
	list := diag.List{
		{Severity: diag.Warning, Code: "b", Summary: "later", Range: at("m.hcl", 9, 1)},
		{Severity: diag.Error, Code: "a", Summary: "same", Range: at("m.hcl", 2, 3), Machines: []string{"office"}},
		{Severity: diag.Error, Code: "a", Summary: "same", Range: at("m.hcl", 2, 3), Machines: []string{"lab"}},
		{Severity: diag.Note, Code: "c", Summary: "other file", Range: at("a.hcl", 5, 1)},
	}.Merge()
	list.Sort()
	var got []string
	for _, d := range list {
		got = append(got, d.Range.String()+" "+d.Severity.String()+" "+d.Summary)
	}
	assert.Equal(t, []string{"a.hcl:5:1 note other file", "m.hcl:2:3 error same", "m.hcl:9:1 warning later"}, got)
	assert.Equal(t, []string{"office", "lab"}, list[1].Machines)
	assert.True(t, list.HasErrors())
	assert.Equal(t, 1, list.Count(diag.Warning))
	assert.Len(t, list.Without(diag.Note), 2)
	assert.Len(t, list, 3, "Without leaves the list as it is")
}

func TestRangeString(t *testing.T) {
	assert.Equal(t, "m.hcl:4:2", at("m.hcl", 4, 2).String())
	assert.Equal(t, "m.hcl", diag.Range{File: "m.hcl"}.String())
	assert.Equal(t, "", diag.Range{}.String())
}
