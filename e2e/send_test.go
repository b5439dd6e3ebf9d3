package e2e

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"glossator/core/panel"
	"glossator/core/wire"
	"glossator/e2e/browser"
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
	d := open(t, true)
	d.opens("keel", "halyard")
	d.sees("checks hold")
	d.visit("/sheets/1/dial-in")
	d.sees("Changeover")
	d.holds(port)
	d.press("m")
	d.sees("Turn the volume down first", "settings can be sent", "Unit 4")
	d.holds(`document.querySelector(".send select").value === "one"`)
	d.does("click", "Send what is not ticked")
	d.sees("0 of")
	d.holds(`document.querySelector(".send [role=status]").innerText.includes("sent") && !document.querySelector(".send").innerText.includes("Stop")`)
	text, err := browser.Eval[string](d.Browser, "JSON.stringify(window.sentMIDI)")
	d.must(err)
	var sent [][]int
	d.must(json.Unmarshal([]byte(text), &sent))
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
	d.must(err)
	var want struct {
		Lines []struct {
			Keys    []string
			Reading string
		}
	}
	d.must(json.Unmarshal([]byte(text), &want))
	if len(want.Lines) < 20 || len(at) != len(want.Lines) {
		t.Errorf("%d settings were sent, %d arrived", len(want.Lines), len(at))
	}
	for _, l := range want.Lines {
		if at[l.Keys[0]] != l.Reading {
			t.Errorf("%s: %s arrived, %s was sent", l.Keys[0], at[l.Keys[0]], l.Reading)
		}
	}
	u, err := standin.New(c, 4)
	d.must(err)
	u.MIDI(all) // it takes them as any instrument would
	// a port that goes: undone, half is sent again
	d.holds(`(window.sentMIDI = [], document.querySelectorAll(".list input:checked").length > 20)`)
	d.visit("/sheets/1/dial-in?line=filter.cutoff")
	d.sees("Changeover")
	d.press("Backspace")
	d.holds(port)
	d.press("m")
	d.sees("still to be sent")
	d.holds(`(window.portOut.send = () => { throw new Error("gone") }, true)`)
	d.does("click", "Send what is not ticked")
	d.sees("The port has gone before")
}

// Without MIDI in the browser, and where it is refused, the page says what to do instead.
func TestSendWithoutMIDI(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "halyard")
	for _, x := range []struct{ js, says string }{
		{`(navigator.requestMIDIAccess = undefined, true)`, "This browser has no MIDI"},
		{`(navigator.requestMIDIAccess = async () => { throw new Error("no") }, true)`, "MIDI was refused"},
		{`(navigator.requestMIDIAccess = async () => ({outputs: new Map(), inputs: new Map()}), true)`, "No instrument is connected by MIDI"},
	} {
		d.visit("/sheets/1/dial-in")
		d.sees("Changeover")
		d.holds(x.js)
		d.press("m")
		d.sees(x.says, "save the settings as a MIDI file")
	}
}

// moves has the simulated input say that a control stands at its i-th position.
func (d *desk) moves(c *panel.Compiled, id string, i int) {
	d.t.Helper()
	k, ok := c.ControlIndex(id)
	if !ok {
		d.t.Fatalf("no control %s", id)
	}
	all, why := wire.One(c, k, c.Controls[k].Face.At(i), 1)
	if why != "" {
		d.t.Fatal(why)
	}
	for _, m := range all {
		d.holds(fmt.Sprintf("window.portIn.says(%d, %d, %d)", m.Status, m.Data[0], m.Data[1]))
	}
}

// What is moved on the instrument is taken: on a patch its reading, on a sheet another reading of the target, on the list a tick where it stands as planned, at the bench where the take is made. What the hairline sets goes out at once; a line is sent alone; what needs a caution is not sent by itself.
func TestTheInstrumentIsHeard(t *testing.T) {
	c := testrack.Panels(t)["halyard"]
	d := open(t, true)
	d.visit("/patches/fog-bank")
	d.sees("Fog Bank")
	k := c.Order[slices.IndexFunc(c.Order, func(k int) bool {
		m := c.Controls[k].MIDI
		return m != nil && (m.CC != nil || m.NRPN != nil) && strings.Contains(c.Controls[k].Label, "utoff")
	})]
	cutoff := &c.Controls[k]
	d.holds(port)
	d.press("l")
	d.sees("Move a control of Halyard")
	d.moves(c, cutoff.ID, 3)
	d.sees(cutoff.Label+" "+cutoff.Face.At(3).Reading+" taken", "Undo")
	d.moves(c, cutoff.ID, 3)
	d.sees(cutoff.Label + " " + cutoff.Face.At(3).Reading + ", as it stands")
	d.holds("window.portIn.says(0xB0, 119, 7)")
	d.sees("no control of the panel")
	d.press("Escape")
	d.holds(`!document.querySelector(".listening") && window.portIn.onmidimessage === null`)

	d.opens("keel", "halyard")
	d.sees("checks hold")
	d.holds(port)
	d.press("m")
	d.sees("Unit 4", "Send what changes from now on")
	d.does("click", "Listen to it")
	d.sees("it is read beside what is planned")
	d.moves(c, cutoff.ID, 5)
	d.sees(cutoff.Label + " taken as " + cutoff.Face.At(5).Reading)
	d.does("click", "Send what changes from now on")
	d.holds(`(window.sentMIDI = [], true)`)
	d.press("r", "ArrowRight")
	d.sees(cutoff.Label+" ", "sent")
	d.holds(`window.sentMIDI.length > 0 && window.sentMIDI.length <= 6`)
	d.press("Escape", "Escape")
	d.holds(`!document.querySelector(".send")`)

	d.visit("/sheets/1/dial-in")
	d.sees("0 of")
	d.holds(port)
	d.press("m")
	d.sees("Listen to it", "Unit 4")
	d.does("click", "Listen to it")
	d.sees("it is read beside what is planned")
	d.moves(c, cutoff.ID, 9)
	d.sees("stands at "+cutoff.Face.At(9).Reading+"; planned is", "0 of")
	d.press(".")
	d.sees(cutoff.Label, "sent", "1 of")

	// the bench
	d.visit("/panels/halyard/bench/" + cutoff.ID)
	d.sees("Take from stand-in")
	d.holds(port)
	d.press("l")
	d.sees("where it stands becomes the reading")
	d.moves(c, cutoff.ID, 7)
	d.sees(cutoff.Label + " stands at " + cutoff.Face.At(7).Reading)
	d.holds(fmt.Sprintf(`document.querySelector("input.reading").value === %q`, cutoff.Face.At(7).Reading))
}

// Who has no instrument chooses a stand-in where the ports are: it is sent the sheet, its dump is read back, and it is heard.
func TestStandInBesideThePorts(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "fairlead")
	d.sees("checks hold")
	d.visit("/sheets/1/dial-in")
	d.sees("0 of")
	d.press("m")
	d.sees("Turn the volume down first")
	d.holds(`!!document.querySelector(".send option[value=stand-in]")`)
	d.set(`document.querySelector(".send select")`, "stand-in")
	d.sees("unit")
	d.does("click", "Read its dump")
	d.sees("do not stand as planned")
	d.does("click", "Leave it")
	d.does("click", "Send what is not ticked")
	d.holds(`document.querySelectorAll(".list input:checked").length > 20 && !document.querySelector(".send").innerText.includes("Stop\n")`)
	d.does("click", "Read its dump")
	d.sees("stand as planned", "Tick what does")
	d.does("click", "Hear the stand-in")
	d.sees("Stop it")
	d.does("click", "Stop it")
}
