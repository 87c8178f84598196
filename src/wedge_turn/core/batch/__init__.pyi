from .folder import AskedQuestion as AskedQuestion
from .folder import Choice as Choice
from .folder import FilePlan as FilePlan
from .folder import PreparedFile as PreparedFile
from .folder import PreparedFolder as PreparedFolder
from .tree import Tree as Tree
from .tree import prepare_tree as prepare_tree
