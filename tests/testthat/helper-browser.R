# A real Chromium, driven by its remote protocol over pipes; tests are skipped where there is
# none. `browser$run(script)` gives the value of a script, awaited, in the page that is open.

chromium <- function() {
  found <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
  unname(found[nzchar(found)][1])
}

start_browser <- function(width = 1280, height = 800, env = parent.frame()) {
  testthat::skip_if_not_installed("processx")
  if (is.na(chromium())) testthat::skip("no Chromium is installed")
  profile <- tempfile("browser")
  # Its answers end with a nought, which no text of R can hold: each becomes a line.
  line <- paste(
    shQuote(chromium()), "--headless --no-sandbox --disable-gpu --remote-debugging-pipe --no-first-run --disable-background-networking",
    paste0("--disable-component-update --window-size=", width, ",", height), paste0("--user-data-dir=", shQuote(profile)),
    "about:blank 3<&0 4>&1 >/dev/null 2>/dev/null | stdbuf -o0 tr '\\0' '\\n'"
  )
  process <- processx::process$new("/bin/sh", c("-c", line), stdin = "|", stdout = "|", cleanup_tree = TRUE)
  withr::defer({ process$kill_tree(); unlink(profile, recursive = TRUE) }, env)
  state <- new.env()
  state$id <- 0
  state$lines <- character()
  receive <- function(limit) {
    end <- Sys.time() + limit
    while (length(state$lines) == 0) {
      if (Sys.time() > end) stop("the browser gave no answer in ", limit, " seconds")
      process$poll_io(200)
      state$lines <- process$read_output_lines()
    }
    one <- state$lines[1]
    state$lines <- state$lines[-1]
    jsonlite::fromJSON(one, simplifyVector = FALSE)
  }
  send <- function(method, params = NULL, limit = 60) {
    state$id <- state$id + 1
    message <- list(id = state$id, method = method, params = if (is.null(params)) structure(list(), names = character()) else params)
    message$sessionId <- state$session
    bytes <- c(charToRaw(enc2utf8(as.character(jsonlite::toJSON(message, auto_unbox = TRUE, digits = NA, null = "null")))), as.raw(0))
    while (length(bytes) > 0) bytes <- process$write_input(bytes)
    repeat {
      got <- receive(limit)
      if (identical(as.numeric(got$id), as.numeric(state$id))) break
    }
    if (!is.null(got$error)) stop(method, ": ", got$error$message)
    got$result
  }
  run <- function(script, limit = 60) {
    got <- send("Runtime.evaluate", list(expression = script, awaitPromise = TRUE, returnByValue = TRUE), limit)
    if (!is.null(got$exceptionDetails)) stop("in the page: ", got$exceptionDetails$exception$description)
    got$result$value
  }
  pages <- Filter(function(one) one$type == "page", send("Target.getTargets")$targetInfos)
  attached <- send("Target.attachToTarget", list(targetId = pages[[1]]$targetId, flatten = TRUE))
  state$session <- attached$sessionId
  list(
    run = run, send = send,
    # The seconds until the page is ready.
    open = function(file, limit = 60) {
      start <- Sys.time()
      send("Page.navigate", list(url = paste0("file://", normalizePath(file))))
      while (!isTRUE(tryCatch(run("!!(window.page && window.page.ready)"), error = function(e) FALSE))) {
        if (Sys.time() - start > limit) stop("the page did not open")
        Sys.sleep(0.05)
      }
      as.numeric(Sys.time() - start, units = "secs")
    },
    key = function(name, ...) for (type in c("keyDown", "keyUp")) send("Input.dispatchKeyEvent", list(type = type, key = name, code = name, text = if (nchar(name) == 1) name else if (name == "Enter") "\r" else "", ...)),
    shot = function(file) writeBin(jsonlite::base64_dec(send("Page.captureScreenshot")$data), file),
    size = function(width, height) send("Emulation.setDeviceMetricsOverride", list(width = width, height = height, deviceScaleFactor = 1, mobile = FALSE))
  )
}
