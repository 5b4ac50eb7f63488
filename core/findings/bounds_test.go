package findings_test

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/decide"
)

type object = map[string]any

// shapes are bundles that take much for their size, by how large they are; at 1 each is about 1 MB or what the
// schema allows.
var shapes = map[string]func(size float64) object{
	"a rule that never matches": func(size float64) object {
		return shaped(int(14*size)+1, 0, func(i int) object {
			return object{"schedule": object{"windows": repeated(500, func(k int) any {
				return object{
					"from": fmt.Sprintf("2026-12-01T%02d:%02d", k/60, k%60), "until": "2026-12-02T00:00",
					"rule": "FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=30",
				}
			})}}
		})
	},
	"patterns with stars": func(size float64) object {
		return shaped(int(26*size)+1, 3000, func(i int) object {
			return object{"pages": object{"include": repeated(500, func(k int) any {
				return object{"match": "pattern", "pattern": fmt.Sprintf("/s%d/*/:x/(a|b)/*", i*500+k)}
			})}}
		})
	},
	"page sets with tags": func(size float64) object {
		b := shaped(int(30*size)+1, int(3000*size)+10, func(i int) object {
			return object{"pages": object{"include": repeated(100, func(k int) any {
				return object{"match": "set", "name": fmt.Sprintf("set %d", k)}
			})}}
		})
		b["site"].(object)["pageSets"] = repeated(100, func(k int) any {
			return object{"name": fmt.Sprintf("set %d", k), "include": repeated(40, func(j int) any {
				return object{"match": "tag", "value": fmt.Sprintf("t%d", (k*40+j)%997)}
			})}
		})
		for i, p := range b["pages"].([]any) {
			p.(object)["tags"] = repeated(20, func(j int) any { return fmt.Sprintf("t%d", (i*31+j*7)%997) })
		}
		return b
	},
	"patterns and pages": func(size float64) object {
		return shaped(int(16*size)+1, int(14_000*size)+10, func(i int) object {
			return object{"pages": object{"include": repeated(500, func(k int) any {
				return object{"match": "pattern", "pattern": fmt.Sprintf("/p/*/q%d", i*500+k)}
			})}}
		})
	},
	"sections and queries": func(size float64) object {
		return shaped(5, int(20_000*size)+10, func(i int) object {
			return object{"pages": object{
				"include": repeated(int(1999*size)+1, func(k int) any {
					return object{"match": "section", "path": fmt.Sprintf("/p/%d", k)}
				}),
				"exclude": repeated(int(1500*size)+1, func(k int) any {
					return object{"match": "query", "name": fmt.Sprintf("q%d", k), "value": "x"}
				}),
			}}
		})
	},
	"a chain that hands over": func(size float64) object {
		n := int(3385 * size)
		return shaped(n, 10, func(i int) object {
			return object{"content": object{
				"countdown": object{"kind": "visitor", "for": "PT1H", "then": "hand-over", "handTo": fmt.Sprintf("n%d", i+1)},
				"wordings":  object{"en": object{"message": "Hello"}},
			}}
		})
	},
	"plain bars": func(size float64) object {
		return shaped(int(7338*size), 10, func(i int) object { return object{} })
	},
	"named pages": func(size float64) object {
		return shaped(11, int(2000*size)+10, func(i int) object {
			return object{"pages": object{"include": repeated(int(1999*size)+1, func(k int) any {
				return object{"match": "page", "path": fmt.Sprintf("/p/%d", k)}
			})}}
		})
	},
	"rivals with audiences": func(size float64) object {
		return shaped(int(3500*size), 10, func(i int) object {
			return object{"audience": object{"all": []any{
				object{"fact": "visits.number", "is": "gte", "value": i % 17},
				object{"fact": "device.kind", "is": "eq", "value": "phone"},
			}}}
		})
	},
	"rivals with rules": func(size float64) object {
		return shaped(int(3500*size), 10, func(i int) object {
			return object{"schedule": object{"windows": []any{object{
				"from":  fmt.Sprintf("2026-12-%02dT09:00", i%28+1),
				"until": fmt.Sprintf("2026-12-%02dT18:00", i%28+1), "rule": "FREQ=WEEKLY",
			}}}}
		})
	},
	"large trees": func(size float64) object {
		return shaped(int(16*size)+1, 10, func(i int) object {
			return object{"audience": object{"all": repeated(15, func(j int) any {
				return object{"any": repeated(4, func(k int) any {
					return object{"none": repeated(15, func(l int) any {
						return object{"fact": fmt.Sprintf("event.e%d.count", (j*7+k*3+l)%23), "is": "gte", "value": (i + j*k + l) % 9}
					})}
				})}
			})}}
		})
	},
	"many facts": func(size float64) object {
		return shaped(int(16*size)+1, 10, func(i int) object {
			return object{"audience": object{"all": repeated(300, func(j int) any {
				return object{"any": []any{
					object{"fact": fmt.Sprintf("person.p%d", j), "is": "eq", "value": fmt.Sprint(i)},
					object{"fact": fmt.Sprintf("person.p%d", (j+1)%300), "is": "ne", "value": fmt.Sprint(j)},
					object{"fact": fmt.Sprintf("event.e%d.count", j), "is": "gte", "value": j},
				}}
			})}}
		})
	},
	"texts like others": func(size float64) object {
		return shaped(int(100*size)+1, 10, func(i int) object {
			return object{"audience": object{"any": repeated(100, func(k int) any {
				return object{"fact": "page.title", "is": "like", "value": fmt.Sprintf("*a%d*b%d*c*", i, k)}
			})}}
		})
	},
}

func repeated(n int, of func(i int) any) []any {
	out := make([]any, n)
	for i := range out {
		out[i] = of(i)
	}
	return out
}

// shaped is a bundle of so many published bars on all pages, with other parts instead.
func shaped(notices, pages int, parts func(i int) object) object {
	return object{
		"format": "mastflag.bundle/2",
		"site":   object{"key": "s", "name": "S", "timeZone": "Europe/London", "language": "en"},
		"pages":  repeated(pages, func(i int) any { return object{"path": fmt.Sprintf("/p/%d", i)} }),
		"notices": repeated(notices, func(i int) any {
			n := object{
				"id": fmt.Sprintf("n%d", i), "kind": "bar", "state": "published", "publishedAt": "2026-01-01T00:00:00Z",
				"pages":   object{"include": []any{object{"match": "all"}}},
				"content": object{"wordings": object{"en": object{"message": "Hello"}}},
			}
			for k, v := range parts(i) {
				n[k] = v
			}
			return n
		}),
	}
}

// BenchmarkShapes prints what it takes to read, compile and check bundles that take much for their size, at four sizes.
func BenchmarkShapes(b *testing.B) {
	for name, shape := range shapes {
		for _, size := range []float64{0.125, 0.25, 0.5, 1} {
			b.Run(fmt.Sprintf("%s/%v", name, size), func(b *testing.B) {
				raw, err := json.Marshal(shape(size))
				if err != nil {
					b.Fatal(err)
				}
				var parsed, compiled, looked time.Duration
				for b.Loop() {
					began := time.Now()
					in, err := bundle.Parse(raw)
					parsed += time.Since(began)
					if err != nil {
						if name != "a rule that never matches" {
							b.Fatal(err)
						}
						continue
					}
					began = time.Now()
					s, err := decide.Compile(in)
					compiled += time.Since(began)
					if err != nil {
						continue
					}
					began = time.Now()
					checked(s, at)
					looked += time.Since(began)
				}
				n := float64(b.N)
				b.ReportMetric(float64(len(raw))/1e6, "MB")
				b.ReportMetric(parsed.Seconds()/n, "parse-s")
				b.ReportMetric(compiled.Seconds()/n, "compile-s")
				b.ReportMetric(looked.Seconds()/n, "check-s")
			})
		}
	}
}
