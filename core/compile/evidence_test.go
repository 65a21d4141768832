package compile_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
)

// What a mechanism says was pressed stands in the record, and the record names mechanisms only.
func TestRecordIsOfMechanisms(t *testing.T) {
	var names []string
	for _, m := range registry.List() {
		for _, f := range placesOf(m) {
			names = append(names, f.Name)
			pressed := slices.ContainsFunc(
				mechanism.Record(), func(p mechanism.Press) bool { return p.Mechanism == f.Name },
			)
			assert.Equal(t, f.Evidence == mechanism.Tested, pressed, f.Name)
		}
	}
	for _, p := range mechanism.Record() {
		assert.Contains(t, names, p.Mechanism)
	}
}

// The evidence is that of the version that the machine says.
func TestEvidenceByVersion(t *testing.T) {
	for version, want := range map[string]string{"6.3": "tested", "5.27": "tested", "5": "tested", "6.9": "documented"} {
		_, builds, diags := build(t, `machine "m" {
  system          = "linux"
  desktop         = "plasma"
  desktop_version = "`+version+`"
}
launch "Meta+F9" { run = "tidegauge" }
`)
		assert.Empty(t, diags)
		assert.Equal(t, want, builds[0].Used[0].Evidence.String(), version)
		assert.Equal(
			t, want == "documented", strings.Contains(builds[0].Used[0].Basis, "not on "+version),
			builds[0].Used[0].Basis,
		)
	}
}
