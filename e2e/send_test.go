package e2e

import (
	"encoding/json"
	"testing"

	"glossator/core/wire"
	"glossator/e2e/browser"
	"glossator/standin"
	"glossator/testutil/testrack"
)

// port is a MIDI port that the page finds, and that keeps what is sent to it; after a while it goes.
const port = `(() => {
	window.sentMIDI = [];
	window.portOut = {id: "one", name: "Unit 4", state: "connected", send(m) { if (this.state !== "connected") throw new Error("gone"); window.sentMIDI.push([...m]); }};
	navigator.requestMIDIAccess = async () => ({outputs: new Map([["one", window.portOut]]), inputs: new Map(), onstatechange: null});
	return true;
})()`

// Settings go out by MIDI in the order of the list: a stand-in that takes the bytes stands as the sheet says, each line that was sent is ticked, and what has no address is named. A port that goes is told, and what was sent stays ticked.
func TestSendByMIDI(t *testing.T) {
	d := open(t, true)
	d.opens("keel", "halyard")
	d.sees("checks hold")
	d.visit("/sheets/1/dial-in")
	d.sees("Send by MIDI")
	d.holds(port)
	d.press("m")
	d.sees("Turn the volume down first", "settings can be sent", "Unit 4")
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
	d.sees("Send by MIDI")
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
		d.sees("Send by MIDI")
		d.holds(x.js)
		d.press("m")
		d.sees(x.says, "save the settings as a MIDI file")
	}
}
