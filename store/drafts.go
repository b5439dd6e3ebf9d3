package store

import (
	"encoding/json"
	"errors"
	"time"

	"gorm.io/gorm"

	"glossator/core/panel"
)

// Drafts gives the panels that are being worked on, by name.
func (s *Store) Drafts() ([]Draft, error) {
	var out []Draft
	err := s.db.Order("name, id").Find(&out).Error
	return out, err
}

// Draft gives the draft of a panel.
func (s *Store) Draft(id string) (*Draft, error) {
	var out Draft
	if err := s.db.First(&out, "id = ?", id).Error; err != nil {
		return nil, found(err)
	}
	return &out, nil
}

// PutDraft keeps a panel as it is being worked on, faults and all. read is the document that it was made from, nil where there is none: what somebody else has changed in the draft since
// is kept, and ErrStale given where both have changed the same. It gives what is kept.
func (s *Store) PutDraft(what string, base int, p *panel.Panel, read []byte) (*panel.Panel, error) {
	kept := p
	err := s.change(what, func(c *changing) error {
		doc, err := json.Marshal(p)
		if err != nil {
			return err
		}
		before, err := c.draft(p.ID)
		if err != nil {
			return err
		}
		if before != nil && read == nil {
			return ErrStale{}
		}
		if before != nil && string(before.Document) != string(read) {
			if doc, err = Merged(read, doc, before.Document); err != nil {
				return err
			}
			kept = &panel.Panel{}
			if err := json.Unmarshal(doc, kept); err != nil {
				return err
			}
			if doc, err = json.Marshal(kept); err != nil {
				return err
			}
		}
		if before != nil && string(before.Document) == string(doc) {
			return errNothing
		}
		return c.save(before, &Draft{ID: p.ID, Base: base, Name: kept.Name, Document: doc, UpdatedAt: s.now()})
	})
	return kept, err
}

// DraftAt gives the document of a draft in the version that changes are made for (On), the newest where none is said.
func (s *Store) DraftAt(id string) (*Draft, error) {
	d, err := s.Draft(id)
	if err != nil || s.based == "" || s.based == d.Tag() {
		return d, err
	}
	return before(&changing{tx: s.db}, "drafts", id, s.based, func(x *Draft) (string, string) { return x.ID, x.Tag() })
}

// DropDraft takes a draft away; the panel stays at its newest revision.
func (s *Store) DropDraft(id string) error {
	name := id
	if d, err := s.Draft(id); err == nil && d.Name != "" {
		name = d.Name
	}
	return s.change("leave the draft of "+name, func(c *changing) error {
		d, err := c.draft(id)
		if err != nil {
			return err
		}
		if d == nil {
			return ErrNotFound
		}
		if err := s.fresh(d.Tag()); err != nil {
			return err
		}
		return c.remove(d)
	})
}

// SaveDraft stores a panel as its next revision and takes its draft away, in one step.
func (s *Store) SaveDraft(p *panel.Panel) (revision int, err error) {
	err = s.change("save panel "+p.Name, func(c *changing) error {
		d, err := c.draft(p.ID)
		if err != nil {
			return err
		}
		if d != nil {
			if TagFor(p) != d.Tag() { // it has been changed while it was checked
				return ErrStale{}
			}
			if err := s.fresh(d.Tag()); err != nil {
				return err
			}
			if err := c.remove(d); err != nil {
				return err
			}
		}
		revision, err = c.putPanel(p, s.now())
		if errors.Is(err, errNothing) && d != nil { // back to what it was: only the draft goes
			return nil
		}
		return err
	})
	return revision, err
}

func (c *changing) draft(id string) (*Draft, error) {
	var d Draft
	err := c.tx.First(&d, "id = ?", id).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, nil
	}
	return &d, err
}

// Revision is one stored revision of a panel.
type Revision struct {
	Revision  int
	Name      string
	CreatedAt time.Time
}

// Revisions lists the revisions of a panel, the newest first.
func (s *Store) Revisions(id string) ([]Revision, error) {
	var out []Revision
	err := s.db.Model(&Panel{}).Where("id = ?", id).Order("revision DESC").Find(&out).Error
	return out, err
}
