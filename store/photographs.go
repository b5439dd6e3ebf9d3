package store

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"time"

	"gorm.io/gorm/clause"
)

// Photograph is a picture of a panel: of a patch as it stands on its instrument, or of a sheet as it was dialled in.
type Photograph struct {
	ID uint `gorm:"primaryKey"`
	// Kind is "patch" or "sheet", Ref which: the id of the patch, or the number of the sheet.
	Kind, Ref     string
	Caption       string
	Width, Height int
	Bytes         int
	// Hash names the image.
	Hash string
	At   time.Time
}

// Image is a picture's bytes, by their hash.
type Image struct {
	Hash   string `gorm:"primaryKey"`
	Data   []byte
	MadeAt time.Time
}

// MostPhotographs is how many pictures one thing may have.
const MostPhotographs = 50

// AddPhotograph keeps a picture, and gives its number.
func (s *Store) AddPhotograph(x Photograph, data []byte) (id uint, err error) {
	sum := sha256.Sum256(data)
	x.Hash, x.Bytes = hex.EncodeToString(sum[:16]), len(data)
	err = s.change("add a photograph", func(c *changing) error {
		var there int64
		of := x.Ref
		if err := c.tx.Model(&Photograph{}).Where("kind = ?", x.Kind).Where("ref = ?", of).Count(&there).Error; err != nil {
			return err
		}
		if there >= MostPhotographs {
			return fmt.Errorf("%w: %d photographs are kept of one thing", ErrTaken, MostPhotographs)
		}
		now := s.now()
		// images that nothing shows any more stay for a day, for undo
		if err := c.tx.Where("made_at < ? AND hash NOT IN (SELECT hash FROM photographs)", now.Add(-takesRest)).Delete(&Image{}).Error; err != nil {
			return err
		}
		if err := c.tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&Image{x.Hash, data, now}).Error; err != nil {
			return err
		}
		x.At = now
		if err := c.save(nil, &x); err != nil {
			return err
		}
		id = x.ID
		return nil
	})
	return id, err
}

// Photographs lists the pictures of a thing, in the order in which they were taken over.
func (s *Store) Photographs(kind, ref string) ([]Photograph, error) {
	out := []Photograph{}
	err := s.db.Where("kind = ? AND ref = ?", kind, ref).Order("id").Find(&out).Error
	return out, err
}

// PhotographImage gives the bytes of a picture.
func (s *Store) PhotographImage(id uint) ([]byte, error) {
	var out Image
	err := s.db.Where("hash = (SELECT hash FROM photographs WHERE id = ?)", id).First(&out).Error
	return out.Data, found(err)
}

// CaptionPhotograph writes what is under a picture.
func (s *Store) CaptionPhotograph(id uint, caption string) error {
	return s.onPhotograph(id, "caption a photograph", func(c *changing, was *Photograph) error {
		x := *was
		x.Caption = caption
		return c.save(was, &x)
	})
}

// DropPhotograph takes a picture away.
func (s *Store) DropPhotograph(id uint) error {
	return s.onPhotograph(id, "take a photograph away", func(c *changing, was *Photograph) error { return c.remove(was) })
}

func (s *Store) onPhotograph(id uint, what string, do func(c *changing, was *Photograph) error) error {
	return s.change(what, func(c *changing) error {
		var was Photograph
		if err := c.tx.First(&was, "id = ?", id).Error; err != nil {
			return found(err)
		}
		return do(c, &was)
	})
}

// withPhotographs takes the pictures of a thing away with it.
func (c *changing) withPhotographs(it Item) error {
	var all []Photograph
	if err := c.tx.Find(&all, "kind = ? AND ref = ?", it.Kind, it.ID).Error; err != nil {
		return err
	}
	for i := range all {
		if err := c.remove(&all[i]); err != nil {
			return err
		}
	}
	return nil
}
