package site

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"hash/crc32"
	"io"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/flate"
)

// Leaf is a part of a page that depends on what its name says and on nothing else: it is written
// and compressed once, and sent as it is.
type Leaf struct {
	raw, packed []byte // packed is a whole number of deflate blocks that refer to nothing before them
	tag         string
}

// leavesMost is how many bytes of leaves are kept.
const leavesMost = 64 << 20

// Leaf is the leaf of a name, which is written where it is not kept. What it is written of is
// worked out before.
func (s *Site) Leaf(ctx context.Context, name string, write func(*bytes.Buffer) error) (*Leaf, error) {
	return s.leaves.Get(name, func() (*Leaf, int64, error) {
		end, err := s.turns.Take(context.WithoutCancel(ctx)) // others may wait for it
		if err != nil {
			return nil, 0, err
		}
		defer end()
		var b bytes.Buffer
		if err := write(&b); err != nil {
			return nil, 0, err
		}
		leaf, err := s.packer.leaf(b.Bytes())
		if err != nil {
			return nil, 0, err
		}
		return leaf, int64(len(leaf.raw) + len(leaf.packed)), nil
	})
}

// leafLevel is how hard a leaf is compressed: a model that is worked on has a new one after each change.
const leafLevel = 4

// packer compresses, with the same writers over and over: each is larger than what it mostly writes.
type packer struct {
	writers [flate.BestCompression + 1]sync.Pool
}

func (p *packer) leaf(raw []byte) (*Leaf, error) {
	packed, err := p.deflated(raw, leafLevel, false)
	sum := sha256.Sum256(raw)
	return &Leaf{raw, packed, hex.EncodeToString(sum[:12])}, err
}

// deflated compresses a part of a stream, the last or one that others follow.
func (p *packer) deflated(raw []byte, level int, last bool) ([]byte, error) {
	var b bytes.Buffer
	w, ok := p.writers[level].Get().(*flate.Writer)
	if ok {
		w.Reset(&b)
	} else {
		var err error
		if w, err = flate.NewWriter(&b, level); err != nil {
			return nil, err
		}
	}
	defer p.writers[level].Put(w)
	if _, err := w.Write(raw); err != nil {
		return nil, err
	}
	end := w.Flush
	if last {
		end = w.Close
	}
	if err := end(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// Write writes a part of a page that depends on nobody who asks.
func (s *Site) Write(to io.Writer, name string, p Page) error {
	return s.templates.ExecuteTemplate(to, name, p)
}

// ShowLeaf answers with a page around a leaf: its head and foot are written for whoever asks. A
// page that its reader has already is answered with 304.
func (s *Site) ShowLeaf(c *gin.Context, p Page, leaf *Leaf) {
	p.User = Who(c)
	p.Edits = p.User != nil && p.User.Role == "author"
	var head, foot bytes.Buffer
	for name, b := range map[string]*bytes.Buffer{"head": &head, "foot": &foot} {
		if err := s.templates.ExecuteTemplate(b, name, p); err != nil {
			s.Trouble(c, fmt.Errorf("render %s: %w", name, err))
			return
		}
	}
	s.sendLeaf(c, head, leaf, foot)
}

// sendLeaf sends a leaf between a head and a foot that are written for whoever asks.
func (s *Site) sendLeaf(c *gin.Context, head bytes.Buffer, leaf *Leaf, foot bytes.Buffer) {
	sum := sha256.Sum256(append(head.Bytes(), foot.Bytes()...))
	tag := `"` + hex.EncodeToString(sum[:12]) + "-" + leaf.tag + `"`
	h := c.Writer.Header()
	h.Set("Cache-Control", "private, no-cache") // kept by its reader, and asked for again each time
	h.Set("ETag", tag)
	h.Set("Vary", "Accept-Encoding")
	if c.GetHeader("If-None-Match") == tag {
		c.Status(http.StatusNotModified)
		return
	}
	h.Set("Content-Type", "text/html; charset=utf-8")
	body := [][]byte{head.Bytes(), leaf.raw, foot.Bytes()}
	if TakesGzip(c.Request) {
		packed, err := s.packer.gzipped(head.Bytes(), leaf, foot.Bytes())
		if err != nil {
			slog.Error("compress", "error", err)
		} else {
			h.Set("Content-Encoding", "gzip")
			body = packed
		}
	}
	length := 0
	for _, part := range body {
		length += len(part)
	}
	h.Set("Content-Length", strconv.Itoa(length))
	c.Status(http.StatusOK)
	for _, part := range body {
		if _, err := c.Writer.Write(part); err != nil {
			return // who asked has left
		}
	}
}

// gzipped is a gzip file (RFC 1952) of a head, a leaf and a foot, of which the leaf is compressed
// already: deflate blocks may follow one another.
func (p *packer) gzipped(head []byte, leaf *Leaf, foot []byte) ([][]byte, error) {
	first, err := p.deflated(head, flate.BestSpeed, false)
	if err != nil {
		return nil, err
	}
	last, err := p.deflated(foot, flate.BestSpeed, true)
	if err != nil {
		return nil, err
	}
	crc := crc32.NewIEEE()
	for _, part := range [][]byte{head, leaf.raw, foot} {
		crc.Write(part)
	}
	end := binary.LittleEndian.AppendUint32(nil, crc.Sum32())
	end = binary.LittleEndian.AppendUint32(end, uint32(len(head)+len(leaf.raw)+len(foot)))
	return [][]byte{{0x1f, 0x8b, 8, 0, 0, 0, 0, 0, 0, 255}, first, leaf.packed, last, end}, nil
}

// TakesGzip reports whether a client says that it reads gzip.
func TakesGzip(r *http.Request) bool {
	for _, one := range strings.Split(r.Header.Get("Accept-Encoding"), ",") {
		name, quality, _ := strings.Cut(strings.TrimSpace(one), ";")
		if name == "gzip" && strings.TrimSpace(quality) != "q=0" {
			return true
		}
	}
	return false
}
