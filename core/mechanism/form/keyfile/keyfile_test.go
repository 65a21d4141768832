package keyfile_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/mechanism/form/keyfile"
)

func TestLines(t *testing.T) {
	const text = "first=1\r\n# a comment\n\n[kwin][Sub]\nWindow Close = Alt+F4=x \nneither\n[]\na=\n[open\n"
	var got []keyfile.Line
	for l := range keyfile.Lines(text) {
		got = append(got, l)
	}
	assert.Equal(t, []keyfile.Line{
		{Number: 1, Text: "first=1", Name: "first", Value: "1", Key: true},
		{
			Number: 5,
			Text:   "Window Close = Alt+F4=x",
			Group:  "kwin][Sub",
			Name:   "Window Close",
			Value:  "Alt+F4=x",
			Key:    true,
		},
		{Number: 6, Text: "neither", Group: "kwin][Sub", Name: "neither"},
		{Number: 8, Text: "a=", Name: "a", Key: true},
		{Number: 9, Text: "[open", Name: "[open"},
	}, got)
	assert.Equal(t, "Alt+F4=x", keyfile.Keys(text)[[2]string{"kwin][Sub", "Window Close"}])
}

func TestEach(t *testing.T) {
	nothing := func(keyfile.Line) error { return nil }
	assert.NoError(t, keyfile.Each("[a]\nb=c\n", nothing))
	assert.EqualError(t, keyfile.Each("[a]\nb\n", nothing), "2: neither a group nor a key")
	assert.EqualError(t, keyfile.Each("b=c\n", nothing), "1: neither a group nor a key")
	assert.EqualError(
		t, keyfile.Each("[a]\n\nb=c\n", func(keyfile.Line) error { return assert.AnError }),
		"3: "+assert.AnError.Error(),
	)
}

func FuzzLines(f *testing.F) {
	f.Add("[a]\nb=c\n[")
	f.Fuzz(func(t *testing.T, text string) {
		for l := range keyfile.Lines(text) {
			assert.NotEmpty(t, l.Text)
		}
	})
}
