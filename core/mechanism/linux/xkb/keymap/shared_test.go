package keymap

import (
	"maps"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
)

// What a keymap shares with that of the bare layouts is what it would be if it shared
// nothing: also when a change moves what Alt, NumLock or AltGr is, which keys that are not
// changed hold and key types look at.
func TestWhatIsSharedIsResolvedAgain(t *testing.T) {
	l, ok := keys.FindLayout("de")
	require.True(t, ok)
	moved := 0
	for name, modMaps := range map[string]map[string][]string{
		"nothing":      {},
		"Alt too":      {"LALT": {"Mod1", "Mod3"}},
		"Alt moved":    {"LALT": {"Mod3"}, "RALT": {"Mod3"}, "META": {}, "ALT": {"Mod3"}},
		"NumLock away": {"NMLK": {}},
		"level three":  {"LVL3": {"Mod3"}},
		"Super":        {"LWIN": {"Mod3"}, "SUPR": {"Mod3"}},
	} {
		k := Build([]*keys.Layout{l}, nil, modMaps)
		alone := &Keymap{Keys: maps.Clone(k.Keys), types: maps.Clone(k.types), interp: k.interp}
		for n, key := range alone.Keys {
			alone.Keys[n] = key.copied()
		}
		for n, typ := range alone.types {
			alone.types[n] = typ.copied()
		}
		alone.resolve(nil)
		bare := bareOf([]*keys.Layout{l})
		for n, key := range k.Keys {
			if key.explicit {
				continue
			}
			if bare.Keys[n] != nil && bare.Keys[n].modMap == key.modMap && bare.Keys[n] != key {
				moved++
			}
			for on := range Masks {
				if !assert.Equal(
					t, alone.At(alone.Keys[n], Mask(on), 0), k.At(key, Mask(on), 0), "%s, %s with %v", name, n,
					Mask(on).Names(),
				) {
					break
				}
			}
		}
	}
	assert.Greater(t, moved, 10, "keys resolved again though nothing is changed about them")
}
