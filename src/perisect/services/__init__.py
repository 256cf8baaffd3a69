"""What a person asks for, a verb each; transactions live here."""
