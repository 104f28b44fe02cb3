-- the face
return {}
