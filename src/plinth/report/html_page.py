"""Pages made of the templates of this package."""


def rendered(template: str, **given: object) -> str:
    """A page of HTML; nothing in it is fetched from anywhere. What a template asks for and is not given is an error."""
    # Late: a window that writes no page need not wait for it.
    import jinja2

    environment = jinja2.Environment(
        loader=jinja2.PackageLoader("plinth.report"), autoescape=True, undefined=jinja2.StrictUndefined,
        trim_blocks=True, lstrip_blocks=True,
    )  # fmt: skip
    return environment.get_template(template).render(**given)
