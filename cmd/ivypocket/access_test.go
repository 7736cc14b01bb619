package main

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"math/big"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ivypocket/access"
)

// certify writes a certificate of this machine with a serial number, and its key.
func certify(t *testing.T, cert, key string, serial int64) {
	t.Helper()
	k, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	c := &x509.Certificate{SerialNumber: big.NewInt(serial), NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}}
	der, err := x509.CreateCertificate(rand.Reader, c, c, &k.PublicKey, k)
	if err != nil {
		t.Fatal(err)
	}
	kder, err := x509.MarshalPKCS8PrivateKey(k)
	if err != nil {
		t.Fatal(err)
	}
	for file, block := range map[string]*pem.Block{cert: {Type: "CERTIFICATE", Bytes: der}, key: {Type: "PRIVATE KEY", Bytes: kder}} {
		if err := os.WriteFile(file, pem.EncodeToMemory(block), 0o600); err != nil {
			t.Fatal(err)
		}
	}
}

func TestElsewhereTheServerDemandsCodes(t *testing.T) {
	dir := t.TempDir()
	data := filepath.Join(dir, "data")
	for _, addr := range []string{"0.0.0.0:0", "[::]:0", ":0", "192.0.2.1:80", "pocket.example:80"} {
		if _, err := ivypocket(t, "--data", data, "serve", "--addr", addr); err == nil || !strings.Contains(err.Error(), "codes make") {
			t.Errorf("%s: %v", addr, err)
		}
	}
	// An editor's alone lets nobody make others.
	if _, err := ivypocket(t, "--data", data, "codes", "make", "--role", "editor", "Ruan Teague"); err != nil {
		t.Fatal(err)
	}
	if _, err := ivypocket(t, "--data", data, "serve", "--addr", "0.0.0.0:0"); err == nil || !strings.Contains(err.Error(), "designer") {
		t.Errorf("%v", err)
	}
	out, err := ivypocket(t, "--data", data, "codes", "make", "--role", "designer", "Odalys Fenn")
	letters, _, _ := strings.Cut(out, "\n")
	if _, ok := access.Hash(letters); err != nil || !ok {
		t.Fatalf("%v: %q", err, out)
	}

	cert, key := filepath.Join(dir, "cert.pem"), filepath.Join(dir, "key.pem")
	for _, bad := range [][]string{{"--tls-cert", cert}, {"--tls-cert", cert, "--tls-key", key}} {
		if _, err := ivypocket(t, append([]string{"--data", data, "serve", "--addr", "127.0.0.1:0"}, bad...)...); err == nil || !strings.Contains(err.Error(), "--tls-cert") {
			t.Errorf("%v: %v", bad, err)
		}
	}
	certify(t, cert, key, 7)
	cmd, url := program(t, data, "--addr", "0.0.0.0:0", "--tls-cert", cert, "--tls-key", key)
	if !strings.HasPrefix(url, "https://") {
		t.Fatal(url)
	}
	url = "https://127.0.0.1" + url[strings.LastIndex(url, ":"):]
	var serial int64
	jar, _ := cookiejar.New(nil)
	client := &http.Client{Jar: jar, Transport: &http.Transport{ForceAttemptHTTP2: true, TLSClientConfig: &tls.Config{InsecureSkipVerify: true, VerifyConnection: func(s tls.ConnectionState) error {
		serial = s.PeerCertificates[0].SerialNumber.Int64()
		return nil
	}}}}
	ask := func(method, path, body string, want int) *http.Response {
		t.Helper()
		req, _ := http.NewRequest(method, url+path, strings.NewReader(body))
		req.Header.Set("Content-Type", "application/json")
		res, err := client.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != want {
			t.Errorf("%s %s: %d, want %d", method, path, res.StatusCode, want)
		}
		return res
	}
	if res := ask("GET", "/api/shelf", "", 401); res.ProtoMajor != 2 || serial != 7 {
		t.Errorf("%s, certificate %d", res.Proto, serial)
	}
	res := ask("POST", "/api/session", `{"code": "`+letters+`"}`, 200)
	if c := res.Header.Get("Set-Cookie"); !strings.Contains(c, "Secure") || !strings.Contains(c, "HttpOnly") || !strings.Contains(c, "SameSite=Strict") {
		t.Errorf("%s", c)
	}
	ask("GET", "/api/shelf", "", 200)
	// Older TLS is not spoken.
	if c, err := tls.Dial("tcp", strings.TrimPrefix(url, "https://"), &tls.Config{InsecureSkipVerify: true, MaxVersion: tls.VersionTLS11}); err == nil {
		c.Close()
		t.Error("TLS 1.1 is spoken")
	}
	// A certificate that is renewed is shown from the next connection on; one that can't be
	// read leaves the last.
	certify(t, cert, key, 8)
	later := time.Now().Add(time.Minute)
	if err := os.Chtimes(cert, later, later); err != nil {
		t.Fatal(err)
	}
	client.CloseIdleConnections()
	ask("GET", "/api/shelf", "", 200)
	if serial != 8 {
		t.Errorf("certificate %d", serial)
	}
	if err := os.WriteFile(cert, []byte("torn"), 0o600); err != nil {
		t.Fatal(err)
	}
	client.CloseIdleConnections()
	ask("GET", "/api/shelf", "", 200)

	// Beside the running server: listed, named, withdrawn.
	list, err := ivypocket(t, "--data", data, "codes", "list")
	if err != nil || !strings.Contains(list, "Odalys Fenn") || strings.Contains(list, letters) {
		t.Fatalf("%v\n%s", err, list)
	}
	var id string
	for line := range strings.Lines(list) {
		if strings.Contains(line, "Odalys Fenn") {
			id, _, _ = strings.Cut(line, " ")
		}
	}
	if _, err := ivypocket(t, "--data", data, "codes", "name", id, "Odalys F."); err != nil {
		t.Error(err)
	}
	for _, bad := range [][]string{{"withdraw", "none"}, {"withdraw", ""}, {"name", id, ""}, {"make", "--role", "boss", "X"}, {"make", "X"}} {
		if _, err := ivypocket(t, append([]string{"--data", data, "codes"}, bad...)...); err == nil {
			t.Errorf("%v is taken", bad)
		}
	}
	ask("GET", "/api/session", "", 200)
	if _, err := ivypocket(t, "--data", data, "codes", "withdraw", id); err != nil {
		t.Fatal(err)
	}
	ask("GET", "/api/shelf", "", 401)
	_ = cmd.Process.Signal(os.Interrupt)
	_ = cmd.Wait()

	// On loopback nobody logs in, if it is not wished for.
	_, url = program(t, data)
	ask("GET", "/api/shelf", "", 200)
	if _, err := ivypocket(t, "--data", data, "serve", "--codes", "--addr", "127.0.0.1:0"); err == nil {
		t.Error("it serves with no good code")
	}
}
