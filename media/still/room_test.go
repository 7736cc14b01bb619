package still

import (
	"context"
	"testing"
	"time"
)

// A picture that takes all the room there is, in a helper that is slow, does not
// hold up small ones; others like it wait, and the bound holds.
func TestSmallOnesDontWaitBehindLargeOnes(t *testing.T) {
	r := newRoom(1000, 300, 100)
	enter := func(n int64) func() {
		ctx, cancel := context.WithTimeout(context.Background(), 30*time.Millisecond)
		defer cancel()
		leave, err := r.enter(ctx, n)
		if err != nil {
			return nil
		}
		return leave
	}
	large := enter(5000) // is cut to what there is
	if large == nil {
		t.Fatal("the first finds no room")
	}
	if enter(101) != nil {
		t.Error("one that is not small goes in")
	}
	var small []func()
	for range 3 {
		leave := enter(100)
		if leave == nil {
			t.Fatal("a small one waits behind a large one")
		}
		small = append(small, leave)
	}
	if enter(100) != nil {
		t.Error("there are more than there is room for")
	}
	small[0]()
	if enter(100) == nil {
		t.Error("room that was made is not given on")
	}
	large()
	if enter(700) == nil {
		t.Error("the room of the large one is not given on")
	}
}
