"""Work beside the request: papers, imports and photographs, made by processes of their own with limits of their own,
while pages are served. Rows in the database say what is asked for, how far it is and what came of it."""
