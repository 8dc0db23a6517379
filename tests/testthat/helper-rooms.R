# The rooms of the code in their order, and what stands where it should not.

room_order <- c(
  "part", "signal", "text", "file", "read", "value", "expr", "codebook", "way", "rule", "screen",
  "study", "table", "scale", "draft", "wave", "coding", "trace", "write", "release", "word",
  "figure", "report", "cli"
)
interface <- c("word", "figure", "report", "cli")
# What speaks, asks, draws or ends: nothing for the core.
doors <- c(
  "print", "cat", "message", "warning", "writeLines", "readline", "invokeRestart", "quit", "q",
  "plot", "format_error", "packageStartupMessage"
)

room_of <- function(file) sub("-.*", "", basename(file))

source_files <- function(folder) {
  all <- list.files(file.path(folder, "R"), "\\.R$", full.names = TRUE)
  setdiff(all, file.path(folder, "R", c("RcppExports.R", "mavik-package.R")))
}

# What each file defines and uses; a file is looked through once as long as it is the same.
file_facts <- local({
  known <- list()
  function(files) {
    lapply(files, function(file) {
      id <- unname(tools::md5sum(file))
      if (is.null(known[[id]])) {
        code <- parse(file, keep.source = TRUE, encoding = "UTF-8")
        known[[id]] <<- c(list(defined = defined_in(code)), used_in(code))
      }
      known[[id]]
    })
  }
})

# The names that a file defines at its top.
defined_in <- function(code) {
  unlist(lapply(code, function(one) {
    if (is.call(one) && identical(one[[1]], as.name("<-")) && is.name(one[[2]])) as.character(one[[2]])
  }))
}

# `calls`: what is called, and what of packages is named, as `pkg::f`; `names`: what is called or
# handed on and is no argument or local name of the file.
used_in <- function(code) {
  tokens <- utils::getParseData(code)
  tokens <- tokens[tokens$terminal & tokens$token != "COMMENT", ]
  name <- gsub("`", "", tokens$text)
  beside <- function(by) c("", "", name, "")[seq_along(name) + 2 + by]
  plain <- !beside(-1) %in% c("$", "@")
  packaged <- beside(-1) %in% c("::", ":::")
  called <- tokens$token == "SYMBOL_FUNCTION_CALL" & plain
  mentioned <- called | tokens$token %in% c("SYMBOL", "SPECIAL") & plain
  own <- tokens$token == "SYMBOL_FORMALS" | plain & beside(1) %in% c("<-", "<<-", "in")
  list(
    calls = unique(c(name[called & !packaged], paste0(beside(-2), "::", name)[packaged])),
    names = setdiff(name[mentioned & !packaged], name[own])
  )
}

# Every use of a name from another room.
room_arrows <- function(folder) {
  files <- source_files(folder)
  facts <- file_facts(files)
  defined <- lapply(facts, `[[`, "defined")
  owner <- stats::setNames(rep(basename(files), lengths(defined)), unlist(defined))
  used <- lapply(facts, function(one) intersect(one$names, names(owner)))
  name <- unlist(used)
  arrows <- data.frame(from = rep(basename(files), lengths(used)), to = unname(owner[name]), name = name)
  arrows[room_of(arrows$from) != room_of(arrows$to), ]
}

# Those to a room that comes later, and files of no room, in words.
arrows_upward <- function(folder, arrows = room_arrows(folder)) {
  strange <- unique(basename(source_files(folder))[!room_of(source_files(folder)) %in% room_order])
  up <- arrows[match(room_of(arrows$from), room_order) < match(room_of(arrows$to), room_order), ]
  c(paste(strange, "stands in no room", recycle0 = TRUE), paste0(up$from, " -> ", up$to, ": ", up$name, recycle0 = TRUE))
}

# Rooms that go in a circle: those from which one comes back.
rooms_in_circle <- function(arrows) {
  from <- room_of(arrows$from)
  to <- room_of(arrows$to)
  reach <- table(factor(from, room_order), factor(to, room_order)) > 0
  for (k in seq_along(room_order)) reach <- reach | (reach[, k] %o% reach[k, ]) > 0
  room_order[diag(reach)]
}
