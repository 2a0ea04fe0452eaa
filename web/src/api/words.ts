// Made by make types from what the server knows.

/** What types of fields are called, and the kind of value they hold. */
export const types = {
  "address": {
    "words": "address",
    "kind": "address",
    "parts": [
      "lines",
      "town",
      "postcode",
      "country"
    ]
  },
  "choice": {
    "words": "choice",
    "kind": "text"
  },
  "date": {
    "words": "date",
    "kind": "date"
  },
  "date_time": {
    "words": "date and time",
    "kind": "instant"
  },
  "decimal": {
    "words": "decimal",
    "kind": "decimal"
  },
  "email": {
    "words": "e-mail",
    "kind": "text"
  },
  "file": {
    "words": "file",
    "kind": "record"
  },
  "long_text": {
    "words": "long text",
    "kind": "text"
  },
  "money": {
    "words": "money",
    "kind": "money"
  },
  "person": {
    "words": "person",
    "kind": "record"
  },
  "phone": {
    "words": "phone",
    "kind": "text"
  },
  "picture": {
    "words": "picture",
    "kind": "record"
  },
  "reference": {
    "words": "reference",
    "kind": "record"
  },
  "running_number": {
    "words": "running number",
    "kind": "whole"
  },
  "several_choices": {
    "words": "several choices",
    "kind": "several"
  },
  "text": {
    "words": "text",
    "kind": "text"
  },
  "web_link": {
    "words": "web link",
    "kind": "text"
  },
  "whole_number": {
    "words": "whole number",
    "kind": "whole"
  },
  "worked_out": {
    "words": "worked out",
    "kind": "text"
  },
  "yes_no": {
    "words": "yes/no",
    "kind": "yesno"
  }
} as const

/** How operators read between a field and a value. */
export const operators = {
  "between": "is between",
  "contains": "contains",
  "includes": "includes",
  "includes_not": "does not include",
  "is": "is",
  "is_empty": "is empty",
  "is_not": "is not",
  "is_not_empty": "is not empty",
  "less": "is less than",
  "less_or_equal": "is at most",
  "more": "is more than",
  "more_or_equal": "is at least",
  "one_of": "is one of",
  "starts_with": "starts with",
  "within_last_days": "is within the last … days",
  "within_next_days": "is within the next … days"
} as const

/** How those read that are asked of days and times. */
export const dated = {
  "less": "is before",
  "less_or_equal": "is on or before",
  "more": "is after",
  "more_or_equal": "is on or after"
} as const

/** How those read that are asked of several choices. */
export const several = {
  "one_of": "includes one of"
} as const
