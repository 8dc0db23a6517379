# Columns that identify a person: by what they are called, or asked for, in several languages, or
# by what stands in them.

is_personal <- function(sign, answers) {
  listed <- is_answer_list(answers)
  named <- sign$person && !(listed && sign$choice) &&
    !(sign$named && are_mostly(answers, function(text) !is.na(text_to_number(text))))
  asked <- isTRUE(sign$own_name) || !listed && isTRUE(sign$asked)
  # Amounts, or answers to choose from, identify nobody, whatever they are asked about.
  (named || asked) && !are_amounts(sign, answers) || holds_personal(answers)
}

are_amounts <- function(sign, answers) !are_coordinates(sign, answers) && are_mostly(
  answers, function(text) stringi::stri_detect_regex(text, "^[0-9]{0,3}([.,][0-9]+)?$")
)

# Degrees of latitude and longitude, with decimals.
are_coordinates <- function(sign, answers) calls_for(sign$plain, coordinates) &&
  are_mostly(answers, function(text) grepl("[.,][0-9]{3,}$", text))

is_personal_name <- function(plain) calls_for(
  plain, paste(personal_names, personal_contacts, personal_places, sep = "|")
)

# Where people live or how they are reached can be asked with answers to choose from.
is_matter_of_choice <- function(plain) !calls_for(plain, paste0(
  personal_names, "|", postal_codes, "|", coordinates, "|ip.?(?:address|adresse)?|e-?mail.*"
))

calls_for <- function(plain, terms) stringi::stri_detect_regex(plain, paste0("^(?:", terms, ")$"))

# However few names there are.
asks_for_name <- function(plain) stringi::stri_detect_regex(plain, paste0(
  "^(?:(?:please |bitte )?(?:enter|give|type|write|state|what is|what's|wie (?:ist|lautet)|",
  "quel est|cu\u00e1l es|qual \u00e8|wat is) )?",
  of_oneself, "(?:", personal_names, ")$"
))

# `your full `, `Ihre private `
of_oneself <- paste0(
  "(?:your|ihre?[nrm]?|deine?[nrm]?|votre|vos|ton|ta|tu|su|sus|",
  "(?:il|la) (?:suo|tuo|sua|tua)|seu|sua|uw|je|din|ditt) ",
  "(?:(?:full|complete|current|private|home|postal|mailing|contact|vollst\u00e4ndige[nrm]?|",
  "private[nrm]?|aktuelle[nrm]?|volledige|fullst\u00e4ndiga) )*"
)

# `Please enter your full name`, `Comment vous appelez-vous ?`: asked of the one who answers, and
# not why or how often. What ends openly (`.*`) takes a word or two of a sentence.
asks_for_person <- function(plain) stringi::stri_detect_regex(plain, paste0(
  "^(?!(?:why|how|when|do|does|did|would|is|are|warum|wie(?! lautet| ist)|wann|wozu|haben|",
  "pourquoi|quand|est-ce|por qu\u00e9|cu\u00e1ndo|perch\u00e9|quando|waarom|wanneer|",
  "varf\u00f6r)\\b)",
  "(?:.{0,60}\\b)?", of_oneself, "(?:", paste(
    personal_names, gsub(".*", "[\\w-]*(?: \\w+)?", paste(
      personal_contacts, personal_places, sep = "|"
    ), fixed = TRUE), sep = "|"
  ), "|contact (?:details|number)|kontaktdaten)(?: .{0,25})?$",
  "|^(?:wie (?:hei(?:ss|\u00df)en sie|hei(?:ss|\u00df)t du)|comment vous appelez[- ]vous",
  "|c\u00f3mo se llama(?: usted)?|come si chiama|hoe heet (?:u|je)|vad heter du)$"
))

personal_names <- paste0(
  "(?:first|last|full|sur|given|family|maiden|respondent).?(?:first|last)?.?name.*|names?|",
  "namen|vor(?:name)?-? ?(?:und|u|&) ?(?:nach|zu)name|vornamen?|nachname|zuname|familienname|",
  "geburtsname|(?:nach)?name,? vorname|kontaktperson|",
  "nom(?: de famille)?(?: et pr\u00e9noms?)?|pr\u00e9noms?(?: et nom)?|",
  "nombre(?: completo| y apellidos?)?|(?:primer |segundo )?apellidos?|",
  "nome(?: completo| e cognome)?|cognome(?: e nome)?|sobrenome|",
  "naam|voornaam|achternaam|voor- en achternaam|namn|f\u00f6rnamn|efternamn|",
  "imi\u0119(?: i nazwisko)?|nazwisko"
)

personal_contacts <- paste0(
  "e-?mail.*|mail(?: address)?|phone.*|telephone.*|mobile.*|cell ?phone.*|",
  "ip.?(?:address|adresse)?|tel|telefon.*|handy(?:nummer)?|mobil(?:nummer|telefon)?|",
  "(?:num\u00e9ro de )?t\u00e9l\u00e9phone.*|courriel.*|",
  "(?:n\u00famero de )?tel\u00e9fono.*|(?:tel\u00e9fono )?m\u00f3vil|correo(?: electr\u00f3nico)?|",
  "(?:numero di )?telefono.*|cellulare|",
  "telefone.*|telem\u00f3vel|celular|telefoon.*|mobiel(?: nummer)?|numer telefonu"
)

postal_codes <- paste0(
  "post ?code|zip.*|postal ?code|plz|postleitzahl.*|code postal|c\u00f3digo postal|",
  "codice postale|postnummer|kod pocztowy|cep"
)

coordinates <- "lat(?:itude)?|lon(?:gitude)?|lng|(?:gps|geo)?.?coordinates?|gps"

personal_places <- paste0(
  postal_codes, "|", coordinates, "|location.*|address.*|street.*|",
  "adresse.*|anschrift|(?:wohn|post)anschrift|strasse.*|hausnummer|rue|direcci\u00f3n(?: postal)?|",
  "calle|indirizzo.*|endere\u00e7o.*|morada|rua|adres|straat.*|huisnummer|gatuadress|ulica"
)

# By what stands in the cells: addresses of mail and networks, numbers of phones.
holds_personal <- function(answers) {
  most <- function(...) are_mostly(answers, ...)
  # A look at one character rules most columns out.
  if (most(function(text) stringi::stri_detect_fixed(text, "@")) && most(is_mail)) return(TRUE)
  if (max(stringi::stri_length(answers$text), 0) < 7) return(FALSE)
  if (!most(function(text) stringi::stri_startswith_charclass(text, "[0-9+(]")) ||
    !most(function(text) stringi::stri_endswith_charclass(text, "[0-9]"))) return(FALSE)
  most(is_network_address) || (
    most(is_phone, 0.8) && !are_dates(answers, 0.5) && !is_answer_list(answers)
  )
}

are_mostly <- function(answers, test, least = 0.5) are_most(answers, test, least, more = TRUE)

is_mail <- function(text) stringi::stri_detect_regex(text, "^[^@\\s]+@[^@\\s]+\\.[A-Za-z]{2,}$")

is_network_address <- function(text) stringi::stri_detect_regex(
  text, "^[0-9]{1,3}([.][0-9]{1,3}){3}$"
)

is_phone <- function(text) stringi::stri_detect_regex(
  text, "^[+(]?[0-9][0-9 ()/-]{7,}[0-9]$"
) & (stringi::stri_count_regex(text, "[ ()/+-]") > 1 | grepl("^[+(0]", text))

# Few texts that come again and again.
is_answer_list <- function(answers) nrow(answers) <= 30 && sum(answers$count) >= 3 * nrow(answers)
