package colour_test

import (
	"fmt"

	"mastflag/core/colour"
)

func Example() {
	// WCAG 2.2 asks for 4.5 of text (§1.4.3).
	ratio, err := colour.Contrast("#8a8a8a", "#ffffff")
	if err != nil {
		fmt.Println(err)
		return
	}
	nearest, _ := colour.Nearest("#8a8a8a", "#ffffff")
	fmt.Printf("%.2f of at least %.1f; the nearest that is enough: %s\n", ratio, colour.Minimum, nearest)
	// Output:
	// 3.45 of at least 4.5; the nearest that is enough: #757575
}
