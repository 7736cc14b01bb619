package e2e

import (
	"testing"

	"ivypocket/demo"
)

// played plays a piece from its first frame until all of its frames are at hand, and
// then for five seconds more, and tells how that went.
const played = `(async () => {
	const wait = ms => new Promise(r => setTimeout(r, ms)), marks = () => performance.getEntriesByName('ivy-frame').map(e => e.detail);
	const how = document.querySelector('[data-test=how]'), n = 1 + Number(document.querySelector('[aria-label=Playhead]').getAttribute('aria-valuemax'));
	document.querySelector("[aria-label='First frame']").click();
	await wait(300);
	performance.clearMarks('ivy-frame');
	const begun = performance.now();
	document.querySelector('[data-test=play]').click();
	while (how.dataset.hot !== 'true' && performance.now() - begun < 60000) await wait(20);
	const whole = (performance.now() - begun) / 1000;
	let step = 0, last = -1;
	for (const f of marks().slice(1)) { if (f < last) break; if (last >= 0) step = Math.max(step, f - last); last = f }
	await wait(500);
	performance.clearMarks('ivy-frame');
	await wait(5000);
	const m = marks();
	let dropped = 0;
	for (let i = 1; i < m.length; i++) dropped += (m[i] - m[i - 1] + n) % n - 1;
	document.querySelector('[data-test=play]').click();
	return [whole, step, dropped] })()`

// BenchmarkPlaying plays the demo's templates in the browser, which draws without a
// graphics card here and takes half of the time: seconds until all frames are at
// hand, the widest step of the first pass, and the frames dropped in five seconds
// after that.
func BenchmarkPlaying(b *testing.B) {
	// Light copies of clips are made in the background, once.
	grown := func(w walker) {
		w.must(w.Until(`fetch('/api/media').then(r => r.json()).then(l => l.every(m => m.proxyDone >= m.frames))`, 6*patience))
	}
	play := func(b *testing.B, w walker) {
		w.exact()
		for b.Loop() {
			got := eval[[]float64](b, w.Tab, played)
			b.ReportMetric(got[0], "s-until-whole")
			b.ReportMetric(got[1], "widest-step")
			b.ReportMetric(got[2], "dropped")
		}
	}
	for _, id := range demo.Templates {
		b.Run(id, func(b *testing.B) {
			url, _ := serve(b, b.TempDir())
			w := walker{b, tab(b, 1280, 800)}
			w.must(w.Go(url))
			grown(w)
			w.click("[data-template=" + id + "] .picture")
			play(b, w)
		})
	}
	b.Run("four clips", func(b *testing.B) {
		url, _ := serve(b, b.TempDir())
		w := walker{b, tab(b, 1280, 800)}
		w.must(w.Go(url))
		fourClips(b, w)
		grown(w)
		// Another window of another size has none of the frames.
		other, err := w.Another(1270, 800)
		w.must(err)
		w.must(other.Go(eval[string](b, w.Tab, `location.href`)))
		play(b, walker{b, other})
	})
}
