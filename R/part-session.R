# What is worked out once a session and never changes in it.

session <- new.env()

once_a_session <- function(name, make) {
  if (is.null(session[[name]])) assign(name, make(), envir = session)
  session[[name]]
}
