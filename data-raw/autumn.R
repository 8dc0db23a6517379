# Makes the demo's second wave, a workbook of another layout, from its first: about
# half the singers again, two questions renamed, a label changed, an option added,
# a question dropped and one new, the belonging items as codes that run the other
# way. Run from the package's folder after data-raw/choirs.R: Rscript data-raw/autumn.R

set.seed(20260907, kind = "Mersenne-Twister", normal.kind = "Inversion", sample.kind = "Rejection")
lines <- utils::read.csv("inst/choirs/raw/spring.csv", colClasses = "character", check.names = FALSE, encoding = "UTF-8")
questions <- unlist(lines[1, ])
spring <- lines[-1, ]
names(spring) <- make.unique(names(spring), sep = "#")
agree <- c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
content <- c("Very dissatisfied", "Dissatisfied", "Neither", "Satisfied", "Fully satisfied")
five <- function(x) cut(x, c(-Inf, -1.4, -0.6, 0.1, 1, Inf), labels = FALSE)
pick <- function(x, prob = NULL, size = n) sample(x, size, replace = TRUE, prob = prob)
blank <- function(x, share) replace(x, stats::runif(length(x)) < share, "")

sound <- spring$Kind == "Real" & spring$Q1 == "Yes" & spring$Q8_7 == "Agree" & spring$Q16 == "Yes" & grepl("^[0-9]{1,2}$", spring$Q4) & grepl("^(19|20)[0-9]{2}$", spring$Q17) &
  (!nzchar(spring$Q18) | grepl("^[0-9]{2}/[0-9]{2}/[0-9]{4}$", spring$Q18)) & spring$Q3 %in% c("Soprano", "Alto", "Tenor", "Bass") & spring$Q2 != "KV07" & spring$Q2 != "kv03" & as.numeric(spring$Seconds) >= 60 &
  2026 - as.numeric(spring$Q17) <= suppressWarnings(as.numeric(spring$Q4)) + 1 & !duplicated(spring[["Member no"]]) & Reduce(`&`, lapply(paste0("Q8_", 1:6), function(name) spring[[name]] %in% c("", agree)))
message(sum(sound), " singers could come back")
again <- spring[sort(sample(which(sound), 110)), ]
fresh <- 104
n <- nrow(again) + fresh

years <- c(as.numeric(again$Q4), pmin(60, round(stats::rexp(fresh, 1 / 11))))
joined <- c(again$Q17, as.character(2026 - pmin(years[-seq_len(nrow(again))], 20)))
member <- c(again[["Member no"]], sprintf("%04d", sample(setdiff(1101:1900, as.integer(spring[["Member no"]])), fresh)))
present <- c(rep("Yes", nrow(again)), pick(c("Yes", "No"), c(0.94, 0.06), fresh))
out_of <- present == "No"
scored <- function(row) mean(ifelse(names(row) %in% c("Q8_2", "Q8_5"), 6, 0) + ifelse(names(row) %in% c("Q8_2", "Q8_5"), -1, 1) * match(unlist(row), agree), na.rm = TRUE)
before <- apply(again[paste0("Q8_", 1:6)], 1, scored)
at_home <- c(as.numeric(scale(before)) * 0.8 + 0.6 * stats::rnorm(nrow(again)), stats::rnorm(fresh))
# As this wave's platform wrote them: 1 is the strongest agreement.
item <- function(loading, reversed = FALSE) {
  answer <- five(0.3 + loading * at_home + sqrt(1 - loading^2) * stats::rnorm(n))
  as.character(if (reversed) answer else 6 - answer)
}
belong <- lapply(list(item(0.8), item(0.75, TRUE), item(0.7), item(0.8), item(0.65, TRUE), item(0.7)), function(x) replace(blank(x, 0.03), out_of, ""))

start <- as.POSIXct("2026-09-07 08:00:00", tz = "UTC") + sort(round(stats::runif(n, 0, 19 * 86400)))
spent <- pmax(75, round(stats::rlnorm(n, log(420), 0.5)))
stamp <- function(x) format(x, "%Y-%m-%d %H:%M:%S", tz = "UTC")
some_of <- function(options, chances, separator) {
  ticks <- vapply(chances, function(chance) stats::runif(n) < chance, logical(n))
  apply(ticks, 1, function(tick) paste(options[tick], collapse = separator))
}
reasons <- some_of(c("For the music; old and new", "To meet people", "To learn", "For my health", "For the concerts"), c(0.7, 0.5, 0.25, 0.2, 0.3), ";")
reasons[!nzchar(reasons)] <- "No particular reason"
first <- 5 * sample(2:12, n, TRUE)
second <- 5 * round(stats::runif(n, 0, (100 - first) / 5))
orders <- list(c(1, 2, 3), c(1, 3, 2), c(2, 1, 3), c(2, 3, 1), c(3, 1, 2), c(3, 2, 1))[pick(1:6, c(0.3, 0.25, 0.2, 0.1, 0.1, 0.05))]
rank <- function(at) vapply(orders, `[`, 0, at)
ease <- pmin(7, pmax(1, round(4 + 1.6 * stats::rnorm(n))))
box <- function(chance) ifelse(stats::runif(n) < chance, "Checked", "")
practice <- lapply(c(240, 160, 60), function(most) as.character(5 * round(stats::rexp(n, 5 / most))))
evenings <- lapply(c(4, 5, 6), function(mean) pmin(31, stats::rpois(n, mean)))
notes <- c("The autumn concert was a joy", "More rehearsals, please", "The hall is warm at last", "Thank you")

wave <- list(
  "Sheet no" = sprintf("S%06d", 510000 + cumsum(pick(1:9))), "Opened" = stamp(start), "Sent" = stamp(start + spent), "Kind" = rep("Real", n),
  "Pages seen" = rep(9, n), "Seconds" = spent, "Machine" = pick(c("Phone", "Computer", "Tablet"), c(0.6, 0.3, 0.1)), "Member no" = member, "Q1" = rep("Yes", n), "Q20" = paste0("singer", member, "@choirs.example"),
  "Q2" = c(again$Q2, pick(paste0("KV0", 1:6), NULL, fresh)), "Q3" = c(again$Q3, pick(c("Soprano", "Alto", "Tenor", "Bass"), c(0.36, 0.31, 0.14, 0.19), fresh)), "Other" = rep("", n),
  "Q4" = as.character(years), "Q16" = present, "Q17" = joined, "Q5a" = ifelse(out_of, "", as.character(pick(1:4, c(0.6, 0.28, 0.09, 0.03)))),
  "Q6" = c("Not at all", "2", "3", "4", "5", "6", "Completely")[ease], "Q8_1" = belong[[1]], "Q8_2" = belong[[2]], "Q8_3" = belong[[3]], "Q8_4" = belong[[4]], "Q8_5" = belong[[5]],
  "Q8_6" = belong[[6]], "Q8_7" = rep("2", n), "Q23" = ifelse(out_of, "", content[five(0.4 + 0.6 * at_home + 0.8 * stats::rnorm(n))]),
  "Q10_1" = practice[[1]], "Q10_2" = practice[[2]], "Q10_3" = practice[[3]], "Q11_1" = first, "Q11_2" = second, "Q11_3" = 100 - first - second,
  "Q13_1" = rank(1), "Q13_2" = rank(2), "Q13_3" = rank(3), "Q18" = c(again$Q18, format(as.Date("2006-01-01") + sample(7000, fresh), "%d/%m/%Y")),
  "Other" = blank(pick(notes), 0.9), "Q12" = reasons, "Q15_1" = box(0.22), "Q15_2" = box(0.12), "Q15_3" = box(0.3), "Q15_4" = ifelse(stats::runif(n) < 0.03, pick(c("baking", "the website")), ""),
  "Q19_1" = some_of(c("Paper", "Tablet", "Recordings"), c(0.8, 0.35, 0.5), ", "), "Q19_2" = some_of(c("Paper", "Tablet", "Recordings"), c(0.9, 0.3, 0.1), ", "),
  "Q21_1" = evenings[[1]], "Q21_2" = evenings[[2]], "Q21_3" = evenings[[3]], "Q24" = pick(c("On foot", "By bicycle", "By bus", "By car"), c(0.25, 0.15, 0.2, 0.4))
)
asked <- questions[match(names(wave), names(lines))]
asked[names(wave) == "Q5a"] <- "How many rehearsals do you have in a normal week?"
asked[names(wave) == "Q23"] <- questions[["Q9"]]
asked[names(wave) == "Q24"] <- "How do you mostly get to rehearsals?"
asked[which(names(wave) == "Other")[2]] <- questions[utils::tail(which(names(lines) == "Other"), 1)]
stopifnot(!anyNA(asked))

# Keys and times stay text; what a person would have typed as a number is one.
typed <- function(x) if (is.character(x) && all(grepl("^[0-9]*$", x)) && !identical(x, member)) suppressWarnings(as.numeric(x)) else replace(x, !nzchar(x), NA)
cells <- structure(lapply(wave, typed), class = "data.frame", row.names = seq_len(n))
book <- openxlsx::createWorkbook()
openxlsx::addWorksheet(book, "Responses")
openxlsx::writeData(book, "Responses", "Kestrel Valley choirs survey, autumn 2026", startRow = 1)
openxlsx::writeData(book, "Responses", "All responses up to 26 September", startRow = 2)
openxlsx::writeData(book, "Responses", as.data.frame(t(asked)), startRow = 3, colNames = FALSE)
openxlsx::writeData(book, "Responses", as.data.frame(t(names(wave))), startRow = 4, colNames = FALSE)
openxlsx::writeData(book, "Responses", cells, startRow = 5, colNames = FALSE, keepNA = FALSE)
openxlsx::setColWidths(book, "Responses", seq_along(wave), 14)
openxlsx::saveWorkbook(book, "inst/choirs/raw/autumn.xlsx", overwrite = TRUE)
