"""One job answered: setups, margins, rules, rides, wear, doubt."""
