# The same exact computations in R, timed: run it beside `cargo xtask bench` on the same machine and read ratios.
# Debian: apt-get install r-base-core r-cran-coin r-cran-mvtnorm r-cran-survival
suppressMessages({ library(coin); library(mvtnorm); library(survival) })
weight <- function(i, shift) round(100 + shift + 13 * ((sin(i * 12.9898) * 43758.5453) %% 1), 1)
block <- function(n, from) data.frame(y = c(weight(from + seq_len(n) - 1, 6), weight(from + 50 + seq_len(n) - 1, 0)), g = factor(rep(c("treated", "control"), each = n)))
time <- function(what, run, times) { run(); t <- system.time(for (i in seq_len(times)) run())["elapsed"] / times; cat(sprintf("%-45s %12.1f microseconds\n", what, 1e6 * t)) }
eight <- block(8, 0); fifteen <- block(15, 3)
six <- do.call(rbind, lapply(0:5, function(i) cbind(block(2, 7 * i), b = i))); six$b <- factor(six$b)
grades <- transform(fifteen, y = round(y / 4))
corr <- matrix(0.5, 3, 3); diag(corr) <- 1
cat(R.version.string, "coin", as.character(packageVersion("coin")), "mvtnorm", as.character(packageVersion("mvtnorm")), "\n")
time("re-deal 8 v 8 (coin oneway_test, exact)", function() pvalue(oneway_test(y ~ g, eight, distribution = exact())), 20)
time("re-deal 15 v 15 (coin oneway_test, exact)", function() pvalue(oneway_test(y ~ g, fifteen, distribution = exact())), 5)
time("ranks 15 v 15 with ties (coin, exact)", function() pvalue(wilcox_test(y ~ g, grades, distribution = exact())), 20)
time("Dunnett critical value, 3 contrasts, 9 df", function() qmvt(0.95, tail = "both.tails", df = 9, corr = corr)$quantile, 10)
day <- floor(c(weight(0:19, 4), weight(20:39, 0)) / 7); seen <- (0:39) %% 6 != 5
lives <- data.frame(day = day, seen = seen, g = factor(rep(c("treated", "control"), each = 20)))
time("log-rank 20 v 20 (coin, asymptotic)", function() pvalue(logrank_test(Surv(day, seen) ~ g, lives)), 20)
time("log-rank 20 v 20 (coin, 10,000 deals sampled)", function() pvalue(logrank_test(Surv(day, seen) ~ g, lives, distribution = approximate(nresample = 10000))), 5)
