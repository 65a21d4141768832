package reason

// What the mapping, its machine or its layouts say, on any system.
var (
	NoAdministrator = fromMapping("no-administrator", "{what} needs an administrator")
	NoHyperKey      = fromMapping("no-hyper-key", "no key of this machine is Hyper")
	NoKeysym        = fromMapping("no-keysym", "the layouts give {key} no keysym")
	NoDesktop       = fromMapping("no-desktop", "the machine has no desktop, which would have shortcuts")
	NoKeyLeft       = fromMapping("no-key-left", "by this mapping, no key types '{character}'")
	NoSuchCharacter = fromMapping("no-such-character", "no key types '{character}' under layout {layout}")
	HiddenModifier  = fromMapping("hidden-modifier", "'{character}' needs {modifiers} under layout {layout}")
	NoProgram       = fromMapping("no-program", `app "{app}" names no program for {system}`)
	LayerNeverOn    = fromMapping("layer-never-on", "nothing switches layer {layer} on here")
	BySpareKey      = fromMapping("by-spare-key", "by way of the key {key}, which {press} becomes in the layer")
	FallbackToo     = fromMapping("fallback-too", "its fallback {press}: {reasons}")
	OnlyThisUser    = fromMapping("only-this-user", "for this user only")
	NoSpareKey      = fromMapping(
		"no-spare-key", "a program, an action or a text in a layer needs a spare key of its own, and {keys} are in use",
	)
	OneChordTaken = fromMapping("one-chord-taken", "the desktop has one chord for {action}, which is {press}")
	ChangedAgain  = fromMapping(
		"changed-again", "{key} is changed again by the layout (it {does}), and a layout holds for all boards",
	)
	ChangedBefore = fromMapping("changed-before", "{key} is changed before any layout sees it (it {does})")
	CaughtByOther = fromMapping("caught-by-other", "{board} would have it as well, and cannot have its own")
	NoComposeKey  = fromMapping(
		"no-compose-key", "no key of this machine is Compose, which abbreviations are typed after",
	)
	WordBegins  = fromMapping("word-begins", `"{word}" begins with "{other}", which is done before it`)
	KeysNotFree = fromMapping(
		"keys-not-free", "a layout gives a chord only for a chord whose keys it leaves alone otherwise",
	)
	KeyOfChordMoved = fromMapping(
		"key-of-chord-moved", "the layout gives {key} another meaning, so that no chord with it can come of a key",
	)
	KeyOfChordMovedInLayer = fromMapping(
		"key-of-chord-moved-in-layer",
		"the layout gives {key} another meaning in layer {layer}, so that no chord with it can come of a key",
	)
	UnreachedByLayout = fromMapping("unreached-by-layout", "{key} does not reach the layout")
	LayoutAssumed     = fromMapping("layout-assumed", "which key it is under layout {layout} is known of Linux only")
	NoMeaning         = fromMapping("no-meaning", "layout {layout} gives {key} no meaning")
	TypesNoSuch       = fromMapping("types-no-such", "layout {layout} types no {character} by one key")
	SystemKeeps       = system(
		"system-keeps", "{system} keeps {chord} for itself: it {does}", "the list of chords that systems use",
	)
	ValueNotThere = fromMapping("value-not-there", "{complaint}")
)
