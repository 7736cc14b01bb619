module ivypocket

go 1.26.8

require (
	github.com/hashicorp/golang-lru/v2 v2.0.7
	golang.org/x/image v0.47.0
)

require (
	golang.org/x/sys v0.49.0 // indirect
	golang.org/x/text v0.43.0 // indirect
)
