// Package whole tells whether tests go over all that there is (make whole) or, as CI does, over a share that ends in time.
package whole

import "os"

// Asked tells whether everything is to be gone over: GLOSSATOR_WHOLE is set.
func Asked() bool { return os.Getenv("GLOSSATOR_WHOLE") != "" }
