package formats

import (
	"encoding/json"
	"errors"

	pages "ninecoins/internal/core/reader"
)

// packedNode is a node of a page as it goes to a browser and back: words and boxes, with
// nothing else of the page.
type packedNode struct {
	Kind  int          `json:"k,omitempty"`
	Level int          `json:"l,omitempty"`
	Text  string       `json:"t,omitempty"`
	Out   bool         `json:"s,omitempty"` // crossed out
	Nodes []packedNode `json:"n,omitempty"`
}

// PackPage writes what was kept of a page.
func PackPage(page pages.Node) ([]byte, error) { return json.Marshal(packed(page)) }

func packed(n pages.Node) packedNode {
	p := packedNode{Kind: int(n.Kind), Level: n.Level, Text: n.Text, Out: n.Struck}
	for _, one := range n.Nodes {
		p.Nodes = append(p.Nodes, packed(one))
	}
	return p
}

// UnpackPage reads it again.
func UnpackPage(data []byte) (pages.Node, error) {
	var p packedNode
	if len(data) > LargestPage {
		return pages.Node{}, errors.New("it is too long")
	}
	if err := json.Unmarshal(data, &p); err != nil {
		return pages.Node{}, errors.New("it is no page that was read before")
	}
	page := unpacked(p)
	if words(page) > MostWords {
		return page, errors.New("it holds too many words")
	}
	return page, nil
}

func unpacked(p packedNode) pages.Node {
	n := pages.Node{Kind: pages.Kind(p.Kind), Level: p.Level, Text: p.Text, Struck: p.Out}
	for _, one := range p.Nodes {
		n.Nodes = append(n.Nodes, unpacked(one))
	}
	return n
}
