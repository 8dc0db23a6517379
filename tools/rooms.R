# The graph of rooms: from each room the rooms it uses, arrows upward, circles. Run
# from the package's folder: Rscript tools/rooms.R

source("tests/testthat/helper-rooms.R")
arrows <- room_arrows(".")
upward <- arrows_upward(".", arrows)
circle <- rooms_in_circle(arrows)
counts <- table(room_of(arrows$from), room_of(arrows$to))
for (room in intersect(room_order, rownames(counts))) {
  to <- counts[room, counts[room, ] > 0]
  to <- to[order(match(names(to), room_order))]
  cat(formatC(room, width = -9), "uses", paste0(names(to), " (", to, ")", collapse = ", "), "\n")
}
cat(paste0("  upward: ", upward, "\n", recycle0 = TRUE), sep = "")
lines <- unlist(lapply(source_files("."), readLines, encoding = "UTF-8"))
files <- vapply(source_files("."), function(file) length(readLines(file, encoding = "UTF-8")), 0L)
cat(sprintf(
  "%d rooms, %d files (median %g lines, largest %d), %d arrows upward, %d rooms in a circle, %d lines over 100 wide\n",
  length(unique(room_of(source_files(".")))), length(files), stats::median(files), max(files), length(upward), length(circle),
  sum(nchar(lines) > 100)
))
quit(save = "no", status = if (length(upward) + length(circle) > 0) 1 else 0)
