package server

import (
	"errors"
	"io"
	"net/http"
	"time"
)

// stalled is how long the body of a request may bring nothing before it is ended.
const stalled = 30 * time.Second

// paced ends requests whose body brings nothing for a while, however large it is
// and however long it takes on the whole.
func paced(patience time.Duration) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.Body != nil && r.ContentLength != 0 {
				r.Body = &pacedBody{r.Body, http.NewResponseController(w), patience}
			}
			next.ServeHTTP(w, r)
		})
	}
}

type pacedBody struct {
	body     io.ReadCloser
	rc       *http.ResponseController
	patience time.Duration
}

func (b *pacedBody) Read(p []byte) (int, error) {
	// The server takes the deadline away when the body is at its end, so that
	// nothing is due while what has come is worked on.
	_ = b.rc.SetReadDeadline(time.Now().Add(b.patience))
	return b.body.Read(p)
}

func (b *pacedBody) Close() error { return b.body.Close() }

var errStalled = errors.New("nothing came for a while, and the request was ended; send it again")
