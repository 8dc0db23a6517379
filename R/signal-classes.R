#' Conditions that Mavik signals
#'
#' Every error has the class `mavik_error` and one of its own, so that a script can tell them
#' apart; what they are about they hold as facts.
#'
#' @section Errors:
#' \describe{
#'   \item{`mavik_codebook_error`}{the codebook cannot be read or does not hold. `problems`: a data
#'     frame with `file`, `line`, `path`, `message`; `lines`: the same as texts}
#'   \item{`mavik_read_error`}{a raw file or sheet cannot be read. `file`, `line` where they are
#'     known}
#'   \item{`mavik_build_error`}{the files, the codebook or what was asked for do not go together.
#'     `problems`, `lines` where there are several}
#'   \item{`mavik_draft_error`}{a first codebook cannot be drafted from the files}
#'   \item{`mavik_release_error`}{what a release asks for cannot go out, or would tell too much.
#'     `problems` where there are several}
#'   \item{`mavik_write_error`}{something cannot be written, or stands there already}
#'   \item{`mavik_usage_error`}{a call or a command that makes no sense}
#' }
#' @section Other conditions:
#' \describe{
#'   \item{`mavik_notice`}{what a person should know beside the result; the message says it}
#'   \item{`mavik_progress`}{how far the work is: `step`, `what`, `done`, `total`}
#' }
#' Neither stops anything, nor shows itself in a script: the command line turns them into words.
#' @section Findings:
#' What a person should look at is no condition but a row of [findings()]; its kinds are listed by
#' `mavik reference findings.csv`.
#' @examples
#' tryCatch(
#'   read_codebook(list(mavik = 1, study = list(title = "Choirs"))),
#'   mavik_codebook_error = function(e) e$problems[c("path", "message")]
#' )
#' @name conditions
NULL
