assert(true)
