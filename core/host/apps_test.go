package host_test

import (
	"io/fs"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"

	"leitstand/core/host"
)

func TestApps(t *testing.T) {
	entry := func(text string) *fstest.MapFile { return &fstest.MapFile{Data: []byte("[Desktop Entry]\n" + text)} }
	own := fstest.MapFS{
		"gauge.desktop": entry("Type=Application\nName=Gauge\nExec=tidegauge --all\n"),
		"off.desktop":   entry("Type=Application\nName=Off\nExec=x\nHidden=true\n"),
	}
	all := fstest.MapFS{
		"gauge.desktop":      entry("Type=Application\nName=Another\nExec=gauge\n"),
		"off.desktop":        entry("Type=Application\nName=Off\nExec=x\n"),
		"tide/chart.desktop": entry("Type=Application\nName=Chart\nExec=chart %U\n[Desktop Action new]\nName=New\n"),
		"link.desktop":       entry("Type=Link\nName=Gauge page\nURL=https://tides.example\n"),
		"notes.txt":          {},
	}
	commands := fstest.MapFS{"gauge-console": {}, "tidegauge": {}, "chart": {}}
	chart := host.App{Name: "Chart", ID: "tide-chart.desktop", Line: "chart %U"}
	gauge := host.App{Name: "Gauge", ID: "gauge.desktop", Line: "tidegauge --all"}
	assert.Equal(t, []host.App{chart, gauge}, host.Apps([]fs.FS{own, all}, []fs.FS{commands}, ""))
	assert.Equal(t, []host.App{gauge, {ID: "gauge-console"}}, host.Apps([]fs.FS{own, all}, []fs.FS{commands}, "GAUGE"))
}
