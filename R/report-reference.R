# The page of the language: every key with what it says, takes and does without,
# and the words of the outputs.

reference_page <- function(entries, words) {
  t <- htmltools::tags
  chapters <- intersect(names(language_chapters), chapter_of(entries))
  kinds <- intersect(names(vocabulary_chapters), words$part)
  others <- setdiff(words$part, kinds)
  main <- list(
    t$header(
      t$h1("The codebook language"),
      t$p(
        class = "lead",
        "Every section, key, way, rule, screen and function, and the words of the outputs"
      )
    ),
    t$p(class = "about",
      page_words(paste(
        "Every value is read as text and typed by these tables;",
        "what stands in capitals in a path",
      paste0(
        "(`exports > EXPORT`) is a name of your own. `mavik reference KEY` shows the same on the ",
        "command line."
      )))),
    lapply(
      chapters,
      function(chapter) chapter_section(chapter, entries[chapter_of(entries) == chapter, ])
    ),
    lapply(
      kinds,
      function(kind) words_section(kind, vocabulary_chapters[[kind]], words[words$part == kind, ])
    ),
    lapply(others, function(kind) words_section(kind, kind, words[words$part == kind, ])),
    t$footer(
      "Made by Mavik ", as.character(utils::packageVersion("mavik")),
      " from the tables by which it checks a codebook."
    )
  )
  page_html("The codebook language", reference_finder(entries, words), main)
}

chapter_section <- function(chapter, entries) {
  t <- htmltools::tags
  own <- entries$part %in% c("way", "rule", "screen")
  heads <- unique(entries$goes_with[own])
  t$section(
    id = chapter, t$h2(page_words(language_chapters[[chapter]])),
    lapply(heads, function(name) kind_article(name, entries[own & entries$goes_with == name, ])),
    lapply(
      unique(entries$place[!own]),
      function(place) keys_table(place, entries[!own & entries$place == place, ])
    )
  )
}

# A way, rule or screen: its own key first, then those that go with it.
kind_article <- function(name, entries) {
  t <- htmltools::tags
  own <- entries[1, ]
  t$article(
    id = anchor_of(own), t$h3(t$code(class = "name", name), " ", page_words(own$help)),
    t$pre(t$code(own$example)),
    page_facts(list("Takes" = own$type)),
    if (nrow(entries) > 1) keys_table(own$place, entries[-1, ])
  )
}

keys_table <- function(place, entries) {
  heading <- if (nzchar(place)) paste("Under", place) else "At the top"
  deeper <- ifelse(
    entries$place == place, "", paste0(substring(entries$place, nchar(place) + 4), " > ")
  )
  page_table(heading, list(
    "Key" = paste0(deeper, entries$key, ifelse(entries$required, " (needed)", "")),
    "What it says" = entries$help,
    "Takes" = entries$type, "If not said" = entries$default, "Example" = entries$example
  ), c("Key" = "row", "Example" = "code"))
}

words_section <- function(kind, title, words) {
  t <- htmltools::tags
  t$section(
    id = paste0("words-", gsub("[^a-z]+", "-", kind)), t$h2(page_words(title)),
    lapply(unique(words$place), function(place) {
      some <- words[words$place == place, ]
      page_table(place, list("Word" = some$key, "What it means" = some$help), c("Word" = "row"))
    })
  )
}

anchor_of <- function(entry) paste0("k-", entry$part, "-", entry$key)

reference_finder <- function(entries, words) {
  t <- htmltools::tags
  chapter <- chapter_of(entries)
  own <- entries$part %in% c("way", "rule", "screen") & entries$key == entries$goes_with
  item <- function(href, key, help, more) t$li(
    `data-more` = more, t$a(href = href, t$code(key), t$span(help))
  )
  t$nav(
    class = "finder", `aria-label` = "Keys",
    t$label(`for` = "find", "Find a key"),
    t$input(
      id = "find", type = "search", autocomplete = "off", `aria-controls` = "found",
      `aria-describedby` = "told", `data-one` = "key", `data-many` = "keys"
    ),
    t$p(id = "told", class = "told", role = "status", count_of(nrow(entries) + nrow(words), "key")),
    t$ul(id = "found",
      lapply(seq_len(nrow(entries)), function(row) {
        entry <- entries[row, ]
        item(
          paste0("#", if (own[row]) anchor_of(entry) else chapter[row]), entry$key, entry$help,
          paste(entry$place, entry$goes_with)
        )
      }),
      lapply(seq_len(nrow(words)), function(row) {
        item(
          paste0("#words-", gsub("[^a-z]+", "-", words$part[row])), words$key[row], words$help[row],
          words$place[row]
        )
      })
    )
  )
}
