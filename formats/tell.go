package formats

import (
	"bytes"
	"encoding/json"
	"net/http"
	"strings"
	"unicode/utf8"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/show"
)

// Told is what a file is.
type Told string

// What files are told to be. Other is what nothing here reads.
const (
	FilePanel    Told = "panel"
	FilePatch    Told = "patch"
	FileShow     Told = "show"
	FileSheet    Told = "sheet"
	FileJSON     Told = "json"
	FileTable    Told = "table"
	FileWorkbook Told = "workbook"
	FileSound    Told = "sound"
	FileMIDI     Told = "midi"
	FileDump     Told = "dump"
	FilePicture  Told = "picture"
	FilePDF      Told = "pdf"
	FileDatabase Told = "database"
	FileArchive  Told = "archive"
	FileEmpty    Told = "empty"
	FileText     Told = "text"
	FileOther    Told = "other"
)

// kinds says in words what each is, and where it is wanted.
var kinds = map[Told]string{
	FilePanel:    "a panel",
	FilePatch:    "a patch",
	FileShow:     "a show",
	FileSheet:    "a sheet that was saved as JSON: sheets are made anew from their patch, and not read back",
	FileJSON:     "JSON, and no panel, patch or show of this program",
	FileTable:    "a table: read as a panel on the panels' page",
	FileWorkbook: "a workbook: read as a panel on the panels' page",
	FileSound:    "a sound: sounds are compared on a sheet's Listen page",
	FileMIDI:     "a MIDI file: open the patch that it is of, and choose Readings from MIDI, or its phrase",
	FileDump:     "a dump of an instrument: open the patch that it is of, and choose Readings from MIDI",
	FilePicture:  "a picture",
	FilePDF:      "a PDF: copy its text, and paste it as notes into a patch",
	FileDatabase: "a database; start the program with it by --db",
	FileArchive:  "an archive: unpack it, and import what is in it",
	FileEmpty:    "empty",
	FileText:     "text: paste it as notes into a patch",
	FileOther:    "nothing that this program reads",
}

// Words says what a file is, as in "this is ...".
func (t Told) Words() string { return kinds[t] }

// Tell finds out what a file is by what is in it; the name only decides between a table and other text. Signatures: RIFF/WAVE, AIFF, FLAC, Ogg and MPEG audio, Standard MIDI File 1.0,
// MIDI 1.0 (System Exclusive), SQLite 3, and those of the WHATWG's MIME sniffing standard.
func Tell(name string, data []byte) Told {
	has := func(prefix string) bool { return bytes.HasPrefix(data, []byte(prefix)) }
	text := bytes.TrimSpace(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")))
	lower := strings.ToLower(name)
	switch {
	case len(text) == 0:
		return FileEmpty
	case has("RIFF") && len(data) >= 12 && string(data[8:12]) == "RMID", has("MThd"):
		return FileMIDI
	case has("RIFF"), has("RF64"), has("FORM"), has("fLaC"), has("OggS"), has("ID3"), len(data) > 1 && data[0] == 0xFF && data[1]&0xE0 == 0xE0 && data[1] < 0xFE:
		return FileSound
	case data[0] == 0xF0:
		return FileDump
	case has("SQLite format 3\x00"):
		return FileDatabase
	case has("PK\x03\x04"):
		if bytes.Contains(data, []byte("xl/")) {
			return FileWorkbook
		}
		return FileArchive
	case has("\x1f\x8b"):
		return FileArchive
	case has("%PDF"):
		return FilePDF
	case text[0] == '{' || text[0] == '[':
		var head struct {
			Format string          `json:"format"`
			Lines  json.RawMessage `json:"glosses"`
		}
		err := json.Unmarshal(text, &head)
		switch {
		case head.Format == panel.Format, err != nil && bytes.Contains(text[:min(len(text), 400)], []byte(panel.Format)):
			return FilePanel
		case head.Format == patch.Format, err != nil && bytes.Contains(text[:min(len(text), 400)], []byte(patch.Format)):
			return FilePatch
		case head.Format == show.Format, err != nil && bytes.Contains(text[:min(len(text), 400)], []byte(show.Format)):
			return FileShow
		case head.Lines != nil:
			return FileSheet
		}
		return FileJSON
	}
	if kind := http.DetectContentType(data); strings.HasPrefix(kind, "image/") {
		return FilePicture
	} else if strings.HasPrefix(kind, "audio/") || strings.HasPrefix(kind, "video/") {
		return FileSound
	}
	if bytes.IndexByte(data, 0) >= 0 || !utf8.Valid(data) && !strings.HasSuffix(lower, ".txt") && !strings.HasSuffix(lower, ".csv") {
		return FileOther
	}
	if strings.HasSuffix(lower, ".csv") || strings.HasSuffix(lower, ".tsv") {
		return FileTable
	}
	line, _, _ := bytes.Cut(text, []byte("\n"))
	for _, mark := range []string{",", ";", "\t"} {
		if bytes.Count(line, []byte(mark)) >= 2 {
			return FileTable
		}
	}
	return FileText
}
