package sound

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"glossator/core/panel"
	"glossator/core/wire"
	"glossator/e2e/browser"
	"glossator/e2e/desk"
	"glossator/standin"
	"glossator/testutil/testrack"
)

// port is a MIDI port that the page finds, and that keeps what is sent to it; after a while it goes.
const port = `(() => {
	window.portIn = {id: "in", name: "Unit 4", state: "connected", onmidimessage: null, says(...m) { this.onmidimessage?.({data: new Uint8Array(m)}); return true; }};
	window.sentMIDI = [];
	window.portOut = {id: "one", name: "Unit 4", state: "connected", send(m) { if (this.state !== "connected") throw new Error("gone"); window.sentMIDI.push([...m]); }};
	navigator.requestMIDIAccess = async () => ({outputs: new Map([["one", window.portOut]]), inputs: new Map([["in", window.portIn]]), onstatechange: null});
	return true;
})()`

// Settings go out by MIDI in the order of the list: a stand-in that takes the bytes stands as the sheet says, each line that was sent is ticked, and what has no address is named. A port that goes is told, and what was sent stays ticked.
func TestSendByMIDI(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "halyard")
	d.Sees("checks hold")
	d.Visit("/sheets/1/dial-in")
	d.Sees("Changeover")
	d.Holds(port)
	d.Press("m")
	d.Sees("Turn the volume down first", "settings can be sent", "Unit 4")
	d.Holds(`document.querySelector(".send select").value === "one"`)
	d.Does("click", "Send what is not ticked")
	d.Sees("0 of")
	d.Holds(`document.querySelector(".send [role=status]").innerText.includes("sent") && !document.querySelector(".send").innerText.includes("Stop")`)
	text, err := browser.Eval[string](d.Browser, "JSON.stringify(window.sentMIDI)")
	d.Must(err)
	var sent [][]int
	d.Must(json.Unmarshal([]byte(text), &sent))
	c := testrack.Panels(t)["halyard"]
	var all []wire.Message
	for _, m := range sent {
		x := wire.Message{Status: byte(m[0])}
		for _, b := range m[1:] {
			x.Data = append(x.Data, byte(b))
		}
		all = append(all, x)
	}
	found := wire.Read(c, all)
	at := map[string]string{}
	for _, x := range found.Taken {
		at[x.Control] = x.Reading
	}
	text, err = browser.Await[string](d.Browser, `fetch("/api/v1/sheets/1/send").then(r => r.text())`)
	d.Must(err)
	var want struct {
		Lines []struct {
			Keys    []string
			Reading string
		}
	}
	d.Must(json.Unmarshal([]byte(text), &want))
	if len(want.Lines) < 20 || len(at) != len(want.Lines) {
		t.Errorf("%d settings were sent, %d arrived", len(want.Lines), len(at))
	}
	for _, l := range want.Lines {
		if at[l.Keys[0]] != l.Reading {
			t.Errorf("%s: %s arrived, %s was sent", l.Keys[0], at[l.Keys[0]], l.Reading)
		}
	}
	u, err := standin.New(c, 4)
	d.Must(err)
	u.MIDI(all) // it takes them as any instrument would
	// a port that goes: undone, half is sent again
	d.Holds(`(window.sentMIDI = [], document.querySelectorAll(".list input:checked").length > 20)`)
	d.Visit("/sheets/1/dial-in?line=filter.cutoff")
	d.Sees("Changeover")
	d.Press("Backspace")
	d.Holds(port)
	d.Press("m")
	d.Sees("still to be sent")
	d.Holds(`(window.portOut.send = () => { throw new Error("gone") }, true)`)
	d.Does("click", "Send what is not ticked")
	d.Sees("The port has gone before")
}

// Without MIDI in the browser, and where it is refused, the page says what to do instead.
func TestSendWithoutMIDI(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "halyard")
	for _, x := range []struct{ js, says string }{
		{`(navigator.requestMIDIAccess = undefined, true)`, "This browser has no MIDI"},
		{`(navigator.requestMIDIAccess = async () => { throw new Error("no") }, true)`, "MIDI was refused"},
		{`(navigator.requestMIDIAccess = async () => ({outputs: new Map(), inputs: new Map()}), true)`, "No instrument is connected by MIDI"},
	} {
		d.Visit("/sheets/1/dial-in")
		d.Sees("Changeover")
		d.Holds(x.js)
		d.Press("m")
		d.Sees(x.says, "save the settings as a MIDI file")
	}
}

// moves has the simulated input say that a control stands at its i-th position.
func moves(d *desk.Desk, c *panel.Compiled, id string, i int) {
	d.T.Helper()
	k, ok := c.ControlIndex(id)
	if !ok {
		d.T.Fatalf("no control %s", id)
	}
	all, why := wire.One(c, k, c.Controls[k].Face.At(i), 1)
	if why != "" {
		d.T.Fatal(why)
	}
	for _, m := range all {
		d.Holds(fmt.Sprintf("window.portIn.says(%d, %d, %d)", m.Status, m.Data[0], m.Data[1]))
	}
}

// What is moved on the instrument is taken: on a patch its reading, on a sheet another reading of the target, on the list a tick where it stands as planned, at the bench where the take is made. What the hairline sets goes out at once; a line is sent alone; what needs a caution is not sent by itself.
func TestTheInstrumentIsHeard(t *testing.T) {
	c := testrack.Panels(t)["halyard"]
	d := desk.Open(t, true)
	d.Visit("/patches/fog-bank")
	d.Sees("Fog Bank")
	k := c.Order[slices.IndexFunc(c.Order, func(k int) bool {
		m := c.Controls[k].MIDI
		return m != nil && (m.CC != nil || m.NRPN != nil) && strings.Contains(c.Controls[k].Label, "utoff")
	})]
	cutoff := &c.Controls[k]
	d.Holds(port)
	d.Press("l")
	d.Sees("Move a control of Halyard")
	moves(d, c, cutoff.ID, 3)
	d.Sees(cutoff.Label+" "+cutoff.Face.At(3).Reading+" taken", "Undo")
	moves(d, c, cutoff.ID, 3)
	d.Sees(cutoff.Label + " " + cutoff.Face.At(3).Reading + ", as it stands")
	d.Holds("window.portIn.says(0xB0, 119, 7)")
	d.Sees("no control of the panel")
	d.Press("Escape")
	d.Holds(`!document.querySelector(".listening") && window.portIn.onmidimessage === null`)

	d.Opens("keel", "halyard")
	d.Sees("checks hold")
	d.Holds(port)
	d.Press("m")
	d.Sees("Unit 4", "Send what changes from now on")
	d.Does("click", "Listen to it")
	d.Sees("it is read beside what is planned")
	moves(d, c, cutoff.ID, 5)
	d.Sees(cutoff.Label + " taken as " + cutoff.Face.At(5).Reading)
	d.Does("click", "Send what changes from now on")
	d.Holds(`(window.sentMIDI = [], true)`)
	d.Press("r", "ArrowRight")
	d.Sees(cutoff.Label+" ", "sent")
	d.Holds(`window.sentMIDI.length > 0 && window.sentMIDI.length <= 6`)
	d.Press("Escape", "Escape")
	d.Holds(`!document.querySelector(".send")`)

	d.Visit("/sheets/1/dial-in")
	d.Sees("0 of")
	d.Holds(port)
	d.Press("m")
	d.Sees("Listen to it", "Unit 4")
	d.Does("click", "Listen to it")
	d.Sees("it is read beside what is planned")
	moves(d, c, cutoff.ID, 9)
	d.Sees("stands at "+cutoff.Face.At(9).Reading+"; planned is", "0 of")
	d.Press(".")
	d.Sees(cutoff.Label, "sent", "1 of")

	// the bench
	d.Visit("/panels/halyard/bench/" + cutoff.ID)
	d.Sees("Take from stand-in")
	d.Holds(port)
	d.Press("l")
	d.Sees("where it stands becomes the reading")
	moves(d, c, cutoff.ID, 7)
	d.Sees(cutoff.Label + " stands at " + cutoff.Face.At(7).Reading)
	d.Holds(fmt.Sprintf(`document.querySelector("input.reading").value === %q`, cutoff.Face.At(7).Reading))
}

// Who has no instrument chooses a stand-in where the ports are: it is sent the sheet, its dump is read back, and it is heard.
func TestStandInBesideThePorts(t *testing.T) {
	d := desk.Open(t, true)
	d.Opens("keel", "fairlead")
	d.Sees("checks hold")
	d.Visit("/sheets/1/dial-in")
	d.Sees("0 of")
	d.Press("m")
	d.Sees("Turn the volume down first")
	d.Holds(`!!document.querySelector(".send option[value=stand-in]")`)
	d.Set(`document.querySelector(".send select")`, "stand-in")
	d.Sees("unit")
	d.Does("click", "Read its dump")
	d.Sees("do not stand as planned")
	d.Does("click", "Leave it")
	d.Does("click", "Send what is not ticked")
	d.Holds(`document.querySelectorAll(".list input:checked").length > 20 && !document.querySelector(".send").innerText.includes("Stop\n")`)
	d.Does("click", "Read its dump")
	d.Sees("stand as planned", "Tick what does")
	d.Does("click", "Hear the stand-in")
	d.Sees("Stop it")
	d.Does("click", "Stop it")
}
