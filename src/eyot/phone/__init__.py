"""The phone at the incubator: certificates of the own network, the page that says how, the worker that keeps pages without a signal."""
