<x-error-page code="400" what="This address cannot be read">It holds a list where one value belongs.</x-error-page>
