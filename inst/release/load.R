# Loads the data that lie beside this file, with labels, levels in their order and the reason of
# each gap. Nothing but R itself is needed and nothing has to be edited: run it with
#   source("load.R")      from any folder, with the path before the name
# `analysis` holds the data (factors, ordered ones where the codes have an order; the label of
# a variable is its attribute "label"), `reasons` the same rows with the reason in each gap,
# `variables`, `codes` and `missing` what describes them.

load_analysis <- function() {
  here <- function() {
    for (frame in rev(sys.frames())) {
      if (is.character(frame$ofile)) return(dirname(normalizePath(frame$ofile)))
    }
    said <- grep("^--file=", commandArgs(FALSE), value = TRUE)
    if (length(said) > 0) {
      file <- gsub("~+~", " ", sub("^--file=", "", said[1]), fixed = TRUE)
      if (file.exists(file)) return(dirname(normalizePath(file)))
    }
    getwd()
  }
  folder <- here()
  if (!file.exists(file.path(folder, "analysis.csv"))) {
    stop("analysis.csv does not lie beside this script, in ", folder, call. = FALSE)
  }
  read <- function(file) read.csv(
    file.path(folder, file), colClasses = "character", na.strings = character(),
    encoding = "UTF-8", check.names = FALSE, blank.lines.skip = FALSE, comment.char = ""
  )
  data <- read("analysis.csv")
  gaps <- read("gaps.csv")
  variables <- read("variables.csv")
  codes <- read("codes.csv")
  missing <- read("missing.csv")
  reasons <- gaps
  with_gaps <- variables$variable[variables$gaps != "0"]
  for (name in with_gaps) {
    reasons[[name]] <- factor(gaps[[name]], missing$code, missing$label)
  }
  moment <- function(text) {
    seconds <- ifelse(nchar(text) == 16, paste0(text, ":00"), text)
    as.POSIXct(strptime(seconds, "%Y-%m-%dT%H:%M:%OS", tz = "UTC"), tz = "UTC")
  }
  analysis <- data[variables$variable]
  for (at in seq_len(nrow(variables))) {
    name <- variables$variable[at]
    value <- analysis[[name]]
    gap <- if (name %in% with_gaps) !is.na(reasons[[name]]) else rep(FALSE, length(value))
    value[gap | value == ""] <- NA
    own <- codes[codes$variable == name, ]
    if (nrow(own) > 0) {
      known <- if (variables$values[at] == "labels") own$label else own$code
      value <- factor(value, known, own$label, ordered = variables$level[at] == "ordinal")
    } else if (variables$type[at] %in% c("integer", "number")) {
      value <- as.numeric(value)
    } else if (variables$type[at] == "date") {
      value <- as.Date(value, "%Y-%m-%d")
    } else if (variables$type[at] == "datetime") {
      value <- moment(value)
    }
    attr(value, "label") <- variables$label[at]
    analysis[[name]] <- value
  }
  for (name in c("answered", "gaps")) variables[[name]] <- as.integer(variables[[name]])
  missing$code <- as.integer(missing$code)
  list(
    analysis = analysis, reasons = reasons, variables = variables, codes = codes, missing = missing
  )
}

invisible(list2env(load_analysis(), environment()))
rm(load_analysis)
