# Real locales for the tests, compiled into the build folder; a machine without
# their sources goes without, and the test that needs them says so.

folder <- ".build/locales"
wanted <- c("de_DE", "tr_TR")
missing <- wanted[!dir.exists(file.path(folder, paste0(wanted, ".UTF-8")))]
if (length(missing) > 0) {
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  root <- system("test $(id -u) = 0") == 0
  if (!file.exists("/usr/share/i18n/locales/tr_TR") && root && nzchar(Sys.which("apt-get"))) {
    cat("Installing locales ...\n")
    system("apt-get update -qq > /dev/null 2>&1; DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends locales > /dev/null 2>&1")
  }
  for (name in missing) {
    system2("localedef", c("-i", name, "-f", "UTF-8", file.path(folder, paste0(name, ".UTF-8"))), stdout = FALSE, stderr = FALSE)
  }
}
