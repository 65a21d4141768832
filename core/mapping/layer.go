package mapping

import (
	"fmt"
	"slices"
	"strings"

	"github.com/hashicorp/hcl/v2/hclsyntax"

	"leitstand/core/diag"
	"leitstand/core/keys"
)

func (b *block) layer(c Common) (Rule, bool) {
	r := &Layer{Common: c, Name: b.labels[0], Within: b.within()}
	ok := true
	if !plainName(r.Name.Value) {
		b.add(
			r.Name.Range, "bad-name", fmt.Sprintf("%q cannot be a name", r.Name.Value),
			"use letters, digits, hyphens and underscores",
		)
		ok = false
	}
	okHow := b.how(r)
	if r.How == "" {
		return nil, false
	}
	ok = ok && okHow
	tap, okTap := b.optionalOutput("tap")
	leave, okLeave := b.optionalKey("leave")
	fallback, okFallback := b.optionalKey("fallback")
	r.Tap, r.Leave, r.Fallback = tap, leave, fallback
	ok = ok && okTap && okLeave && okFallback
	r.Dead = b.called(
		"others", "pass", []string{"pass", "off"}, func(word string) (string, bool) { return "off", word == "dead" },
	) == "off"
	if tap.Given() && r.How != While {
		b.add(tap.Range, "contradiction", "only a layer that is held has a tap", "take tap out, or use while")
		return nil, false
	}
	if leave.Key != keys.None && r.How != Toggle {
		b.add(
			leave.Range, "contradiction", "only a toggled layer needs a key to leave it",
			"take leave out, or use toggle",
		)
		return nil, false
	}
	table, given := b.syn.Body.Attributes[keysSchema.typ]
	if !given {
		if !slices.ContainsFunc(b.syn.Body.Blocks, func(inner *hclsyntax.Block) bool { return inner.Type == keysSchema.typ }) {
			b.add(c.Range, "empty-block", "the layer has no keys", "add keys = { KeyH = \"ArrowLeft\" }")
		}
		return nil, false
	}
	b.layerKeys(r, b.rows(table))
	return r, ok && b.canLeave(r)
}

// how reads what switches a layer on; a layer that nothing does has no How then.
func (b *block) how(r *Layer) bool {
	ok := true
	for _, how := range []How{While, Toggle, Once} {
		t, has := b.text(string(how))
		if !has {
			ok = ok && !b.has(string(how))
			continue
		}
		k, okKey := b.key(t)
		ok = ok && okKey
		if r.How != "" {
			b.add(t.Range, "contradiction", fmt.Sprintf("the layer is switched on by %s and by %s", r.How, how),
				"keep one; a second layer of the same keys can have the other")
			r.How = ""
			return false
		}
		r.How, r.Key = how, k
	}
	if r.How == "" && ok && !b.hasFormer() {
		b.add(r.Range, "missing-attribute", "nothing switches the layer on",
			"add while = \"ControlRight\", toggle = … or once = …")
	}
	return ok
}

// layerKeys reads the keys of a layer.
func (b *block) layerKeys(r *Layer, rows []tableRow) {
	for _, row := range rows {
		k, ok := b.key(row.press)
		if !ok {
			continue
		}
		if first := slices.IndexFunc(r.Keys, func(o LayerKey) bool { return o.Key.Key == k.Key }); first >= 0 {
			b.add(k.Range, "duplicate", fmt.Sprintf("%s stands twice in the layer", k.Key), "keep one of the two lines",
				diag.Related{Range: r.Keys[first].Key.Range, Words: "first here"})
			continue
		}
		if out, ok := b.layerOutput(row); ok {
			r.Keys = append(r.Keys, LayerKey{k, out})
		}
	}
}

// layerKeySchema is what a key of a layer may hold in braces.
var layerKeySchema = &schema{typ: "a layer's key", attrs: []attribute{
	{
		"does",
		formText,
	}, {"text", formText}, {"app", formText}, {"run", formCommand}, {"open", formText}, {"dir", formText}, {"confirm", formBool},
	{"steps", formSteps}, {"to", formText}, {"tap", formText}, {"hold", formText}, {"within", formText},
}}

// layerOutput reads what a key of a layer gives: a string as everywhere, "off", or what
// rules of chords give in braces.
func (b *block) layerOutput(of tableRow) (Output, bool) {
	at := b.src.rng(of.value.Range())
	object, braces := of.value.(*hclsyntax.ObjectConsExpr)
	if !braces {
		v, ok := b.rowText(of)
		switch {
		case !ok:
			return Output{}, false
		case v.Value == "off":
			return Output{Off: true, Range: at}, true
		}
		return b.output(v)
	}
	attrs := b.attributes(object)
	row := &block{
		loader: b.loader,
		src:    b.src,
		schema: layerKeySchema,
		at:     &at,
		syn:    &hclsyntax.Block{Body: &hclsyntax.Body{Attributes: attrs}},
	}
	return row.keyOutput(row.attributesFit())
}

// keyOutput reads what stands in braces behind a key of a layer.
func (b *block) keyOutput(fit bool) (Output, bool) {
	o := Output{Range: b.head()}
	said := slices.DeleteFunc(
		[]string{"does", "text", "app", "run", "open", "steps", "to"}, func(a string) bool { return !b.has(a) },
	)
	if b.has("tap") || b.has("hold") {
		said = append(said, "tap and hold")
	}
	switch {
	case len(said) == 0 && fit:
		b.add(
			o.Range, "missing-attribute", "the braces do not say what the key gives",
			"write one of does, text, app, run, open, steps and to in them, or tap and hold",
		)
		return o, false
	case len(said) == 0:
		return o, false
	case len(said) > 1:
		b.add(
			o.Range, "contradiction", fmt.Sprintf("a key gives one thing, and this has %s and %s", said[0], said[1]),
			"keep one of them",
		)
		return o, false
	}
	switch said[0] {
	case "does":
		t, ok := b.text("does")
		o.Action = t.Value
		return o, ok && b.does(t) && fit
	case "text":
		t, ok := b.text("text")
		o.Text = t.Value
		return o, ok && b.typable(t) && fit
	case "steps":
		steps, ok := b.steps()
		o.Steps = steps
		return o, ok && fit
	case "to":
		t, ok := b.text("to")
		if ok && t.Value == "off" {
			return Output{Off: true, Range: t.Range}, fit
		}
		o, ok = b.optionalOutput("to")
		return o, ok && fit
	case "tap and hold":
		tap, ok1 := b.optionalOutput("tap")
		hold, ok2 := b.optionalOutput("hold")
		if ok1 && ok2 && !(tap.Given() && hold.Given()) {
			b.add(
				o.Range, "missing-attribute", "a key that does two things needs tap and hold",
				"add the other of the two",
			)
			return o, false
		}
		o.TapHold = &TapHold{tap, hold, b.within()}
		return o, ok1 && ok2 && fit
	}
	p, ok := b.program()
	o.Program = &p
	return o, ok && fit
}

// canLeave refuses a toggled layer that covers every key which would leave it.
func (b *block) canLeave(r *Layer) bool {
	if r.How != Toggle {
		return true
	}
	covered := func(k keys.Key) bool {
		return k == keys.None || slices.ContainsFunc(r.Keys, func(o LayerKey) bool { return o.Key.Key == k })
	}
	if covered(r.Key.Key) && covered(r.Leave.Key) {
		b.add(r.Key.Range, "no-way-out", "nothing leaves this layer: its own key means something else in it",
			"take "+r.Key.Key.String()+" out of its keys, or name another key with leave = \"Escape\"")
		return false
	}
	return true
}

// typable refuses texts that cannot be typed.
func (l *loader) typable(t Text) bool {
	if t.Value == "" {
		l.add(t.Range, "empty-text", "the text is empty", "write what is to be typed")
		return false
	}
	if i := strings.IndexFunc(t.Value, func(r rune) bool {
		return r < ' ' && r != '\n' && r != '\t' ||
			r == 0x7F
	}); i >= 0 {
		l.add(
			t.Range, "control-character", fmt.Sprintf("the text holds the control character U+%04X", t.Value[i]),
			"a text is made of characters, line breaks and tabs; for keys use a macro",
		)
		return false
	}
	return true
}
