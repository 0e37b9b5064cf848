import './styles.css'
