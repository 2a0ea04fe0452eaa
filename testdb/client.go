package testdb

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"testing"

	"plainpath/demo"
)

// Client speaks to a server as the browser does.
type Client struct {
	Base string
	CSRF string
	// As is the key of the person through whose eyes a builder looks.
	As   string
	HTTP *http.Client
}

// SignIn is a client signed in as somebody of the demo.
func SignIn(t testing.TB, base, email string) *Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	c := &Client{Base: base, HTTP: &http.Client{Jar: jar}}
	var me struct{ CSRF string }
	if status, err := c.Do("POST", "/api/session", map[string]string{"email": email, "password": demo.Password}, "",
		&me); err != nil || status != 200 {
		t.Fatalf("signing in as %s: %d, %v", email, status, err)
	}
	c.CSRF = me.CSRF
	return c
}

// Do sends a request and reads the answer into out, whatever the status. Bytes are sent
// as they are, everything else as JSON.
func (c *Client) Do(method, path string, body any, key string, out any) (int, error) {
	raw, ok := body.([]byte)
	if !ok {
		var err error
		if raw, err = json.Marshal(body); err != nil {
			return 0, fmt.Errorf("writing the request: %w", err)
		}
	}
	req, err := http.NewRequest(method, c.Base+path, bytes.NewReader(raw))
	if err != nil {
		return 0, fmt.Errorf("making the request: %w", err)
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-CSRF-Token", c.CSRF)
	req.Header.Set("Idempotency-Key", key)
	if c.As != "" {
		req.Header.Set("X-See-As", c.As)
	}
	res, err := c.HTTP.Do(req)
	if err != nil {
		return 0, fmt.Errorf("sending the request: %w", err)
	}
	defer func() { _ = res.Body.Close() }()
	answer, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, fmt.Errorf("reading the answer: %w", err)
	}
	switch into := out.(type) {
	case nil:
	case *string:
		*into = string(answer)
	default:
		if err := json.Unmarshal(answer, out); err != nil {
			return res.StatusCode, fmt.Errorf("reading %q: %w", answer, err)
		}
	}
	return res.StatusCode, nil
}
