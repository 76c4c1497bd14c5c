# The table of verdicts of the contract, written out once more: limits, margin and re-deal in, verdict out. Sourced by
# the other scripts, which draw a goal, a direction and a margin for each of their tables.
draw_question <- function(kind) {
  goal <- sample(c("beat", "match", "best"), 1)
  margin <- if (kind == "score") sample(c(0.05, 0.1, 0.2), 1) else if (kind == "days") sample(c(0.5, 1, 3), 1) else paste0(sample(c(3, 10, 25), 1), "%")
  if (goal != "match" && runif(1) < 0.3) margin <- NULL
  list(goal = goal, better = sample(c("higher", "lower"), 1), margin = margin)
}

question_words <- function(q) c("--goal", q$goal, "--better", q$better, if (!is.null(q$margin)) c("--margin", q$margin))

# low and high are limits of treatment less control on the scale of the margin; M is the margin on it, 0 where none.
decided <- function(q, low, high, M, p = NULL, smallest = NULL, outside = 0.05) {
  gain <- if (q$better == "higher") c(low, high) else c(-high, -low)
  low <- gain[1]; high <- gain[2]; has <- M > 0
  v <- if (has && low > M) "better_by_margin"
    else if (q$goal == "match") {
      if (low > 0) "better" else if (has && low > -M && high < M) "same" else if (low > -M) "good_enough" else if (high < -M) "not_good_enough" else "cannot_tell"
    } else if (has && high < -M) "worse_by_margin" else if (has && low > -M && high < M) "same" else if (low > 0) "better" else if (high < 0) "worse" else "cannot_tell"
  claims <- v %in% c("better", "worse", "better_by_margin", "worse_by_margin")
  if (claims && !is.null(p) && p >= outside && (is.null(smallest) || smallest < outside)) v <- "cannot_tell"
  v
}

# Compares every verdict of an answer with the table; returns the lines that differ.
verdict_differences <- function(ours, q, kind) {
  found <- c(); seen <<- if (exists("seen")) seen else c()
  fatal <- any(sapply(ours$warnings, function(w) w$severity == "fatal"))
  unequal <- any(sapply(ours$warnings, function(w) w$code == "unequal_spread"))
  units <- setNames(sapply(ours$treatments, function(t) t$units), sapply(ours$treatments, function(t) t$name))
  for (c in ours$contrasts) {
    s <- if (is.null(c$simultaneous)) c else c$simultaneous
    if (is.null(s$low) || is.null(s$high) || min(units[[c$treatment]], units[[c$versus]]) < 2) {
      # No limits: a difference may be claimed by the deals alone, nothing else.
      if (!(c$verdict %in% c("cannot_tell", "better", "worse"))) found <- c(found, paste(c$treatment, c$verdict, "without limits"))
      next
    }
    M <- if (is.null(q$margin)) 0 else if (kind %in% c("amount", "share") && !is.null(ours$margin$absolute)) ours$margin$absolute
      else if (is.character(q$margin)) as.numeric(sub("%", "", q$margin)) / 100 else q$margin
    shift <- if (kind == "count") 1 else 0
    want <- decided(q, s$low - shift, s$high - shift, M, c$randomisation$p, c$randomisation$smallest_possible_p)
    # Where spreads are unequal, Welch may take a verdict back.
    if (unequal && c$verdict == "cannot_tell") next
    seen[paste(c$verdict)] <<- sum(seen[paste(c$verdict)], 1, na.rm = TRUE)
    if (c$verdict != want) found <- c(found, paste(c$treatment, "ours", c$verdict, "table", want, "limits", s$low, s$high, "M", M))
  }
  found
}
