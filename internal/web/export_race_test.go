//go:build race

package web

import "time"

// Looking for races takes ten times as long.
func init() { answerIn = 5 * time.Minute }
