"""The guide that comes with Plinth: topics written in Markdown, sections found by words, pages of HTML."""
