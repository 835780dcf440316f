package web_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/require"
)

// record hands a request straight to a handler, as if it came from an address.
func record(t *testing.T, handler http.Handler, method, path, from string, header map[string]string) answer {
	t.Helper()
	req := httptest.NewRequest(method, path, nil)
	req.RemoteAddr = from
	for name, value := range header {
		req.Header.Set(name, value)
	}
	req.Host = header["Host"]
	w := httptest.NewRecorder()
	handler.ServeHTTP(w, req)
	return answer{w.Code, w.Header(), w.Body.String(), path}
}

// upload sends a file as the form on the Desk does.
func upload(t *testing.T, c *http.Client, address string, file []byte) answer {
	t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", "file.json")
	require.NoError(t, err)
	_, err = part.Write(file)
	require.NoError(t, err)
	require.NoError(t, form.Close())
	resp, err := c.Post(address, form.FormDataContentType(), &body)
	return read(t, resp, err)
}
