# What is kept over a session, and when memory is asked to let go.

memory <- new.env()

# R takes its time over what is no longer used. After so many cells were worked on
# that a third of what is in use may wait there, it is asked to let go: that keeps
# the peak of memory near what is in use. Work on a cell leaves about 60 bytes.
let_go_after <- function(cells) {
  memory$waiting <- 60 * cells + if (is.null(memory$waiting)) 0 else memory$waiting
  if (memory$waiting < max(4e7, memory$used / 3)) return(invisible())
  memory$waiting <- 0
  memory$used <- sum(gc(FALSE)[, 2]) * 2^20
  invisible()
}
