command_demo <- list(
  place = 1, summary = "Lay out the demo project, a made-up survey of choir singers",
  arguments = "[DIR]", most = 1, example = "mavik demo choirs",
  options = function() list(
    value_option(
      "--waves", "NUMBER",
      "1: a codebook of spring, with the autumn export waiting to be aligned; 2: of both waves",
      default = "1"
    )
  ),
  run = function(given) {
    if (!given$waves %in% c("1", "2")) stop_mavik(
      "usage_error", "--waves takes 1 or 2, not `", given$waves, "`"
    )
    folder <- demo_project(
      if (length(given$args) == 0) "choirs" else given$args, as.integer(given$waves)
    )
    show_lines(c(
      paste0("The demo project stands in ", folder, "/"),
      columns_shown(list(
        file = c(
          "choirs.yml", "raw/spring.csv", "raw/autumn.xlsx", "raw/roster.csv",
          "sheets/corrections.csv", "sheets/best.csv", "sheets/french.csv"
        ),
        words = c(
          "the codebook: what every variable is and how it is made",
          "the export as the platform delivered it",
          if (given$waves == "1")
            "the export of a second wave, to be aligned with the codebook" else
              "the export of the second wave",
          "the choirs, to be looked up", "what the office found out about single answers",
          "codes that people gave to an open question", "ten of its texts in French"
        )
      )),
      paste0(
        "Next: mavik build ", folder,
        if (given$waves == "1") paste0(
          ", and for the second wave: mavik align autumn ", folder, "/raw/autumn.xlsx --project ",
          folder
        )
      )
    ))
    0L
  }
)

#' Lay out the demo project
#'
#' Copies the Kestrel Valley choirs survey, a made-up study with the faults of
#' real ones, into a new folder: the codebook `choirs.yml`, the raw exports of two waves, a
#' roster of choirs, and sheets of corrections and of coded answers.
#'
#' @param dir The folder, new or empty. The demo's own files may stand in it if
#'   they are unchanged.
#' @param waves 1 for a codebook of the spring wave, to which the autumn export has
#'   still to be aligned (see [align_wave()]), or 2 for one of both waves.
#' @return The path of the folder, invisibly.
#' @section Errors: A folder that holds other things, or a file of the demo that
#'   was changed, is left as it is.
#' @examples
#' project <- demo_project(tempfile())
#' list.files(project, recursive = TRUE)
#' @export
demo_project <- function(dir = "choirs", waves = 1) {
  if (!waves %in% 1:2) stop_mavik("usage_error", "`waves` must be 1 or 2")
  from <- system.file("choirs", package = "mavik", mustWork = TRUE)
  files <- sort_c(list.files(from, recursive = TRUE))
  source_of_file <- function(file) if (waves == 2 && file == "choirs.yml") system.file(
    "choirs-autumn", file, package = "mavik", mustWork = TRUE
  ) else file.path(from, file)
  if (file.exists(dir) && !dir.exists(dir)) stop_mavik(
    "write_error", dir, ": is a file; name a folder"
  )
  here <- setdiff(list.files(dir, recursive = TRUE, all.files = TRUE), character())
  foreign <- here[
    !here %in% files & !startsWith(here, "out/") & !startsWith(here, "sheets/align-") &
    !startsWith(here, ".mavik/")
  ]
  if (length(foreign) > 0) stop_mavik(
    "write_error", dir, ": holds ", some_of(foreign, 3), "; choose a new or an empty folder"
  )
  changed <- Filter(
    function(file) file_digest(file.path(dir, file)) != file_digest(source_of_file(file)),
    intersect(here, files)
  )
  if (length(changed) > 0) stop_mavik(
    "write_error", dir, ": ", some_of(changed, 3), " was changed and is kept; choose another folder"
  )
  for (file in setdiff(files, here)) {
    dir.create(dirname(file.path(dir, file)), recursive = TRUE, showWarnings = FALSE)
    if (!file.copy(source_of_file(file), file.path(dir, file))) stop_mavik(
      "write_error", file.path(dir, file), ": cannot be written"
    )
  }
  invisible(dir)
}
