"""The frame of every plan page: plan, state, selection, headline, findings, links; forms and figures in the member's
units."""
