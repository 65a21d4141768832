package keys_test

import (
	"fmt"

	"leitstand/core/keys"
)

// A layout types by a state: a dead key waits for the next one.
func ExampleLayout_Type() {
	layout, _, _ := keys.FindLayoutOn(keys.LayoutsOfMac, "us")
	e, _ := keys.ByCode("KeyE")
	text, state := layout.Type(keys.TypeState{}, e, keys.Alt)
	fmt.Printf("%q, %q waits\n", text, state.Accents)
	text, _ = layout.Type(state, e, 0)
	fmt.Println(text)
	// Output:
	// "", "´" waits
	// é
}
