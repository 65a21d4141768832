package page_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"leitstand/core/check"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/report/page"
	"leitstand/core/station"
	"leitstand/examples"
)

// checked is the example, with all that is known of it.
func checked(t testing.TB) (*mapping.Mapping, check.Report, []*station.Station) {
	t.Helper()
	mp, diags, err := mapping.Load(mechanism.Folder{{Path: "m.hcl", Data: examples.TideOffice}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	found, err := check.Mapping(mp, check.Here{}, nil)
	require.NoError(t, err)
	stations, err := station.All(mp, found.Builds)
	require.NoError(t, err)
	return mp, found, stations
}

// BenchmarkMake makes the page of the example, which was checked before.
func BenchmarkMake(b *testing.B) {
	mp, found, _ := checked(b)
	for b.Loop() {
		stations, err := station.All(mp, found.Builds)
		require.NoError(b, err)
		_, err = page.Make("leitstand.hcl", mp, found, stations)
		require.NoError(b, err)
	}
}
