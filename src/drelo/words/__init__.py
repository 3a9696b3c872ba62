"""What refusals say, in one place for each language: the core gives codes with values, whoever shows them asks here."""
